import { Fold } from "../basic/fold";
import { formatNumber } from "@/core/format/numbers";
import type { Challenge } from "@/core/evaluate/challenge";
import { METRICS } from "@/core/evaluate/metrics";
import type { ModelSummary, serviceHistory } from "@/store/models";
import type { ComponentProps } from "react";
import { RetireButton } from "../basic/actions";
import { moment } from "../basic/format";
import { headline } from "../judge/headline";
import { ServiceButton } from "./service-button";
import { PageLink } from "../basic/page-link";
import { VersionHistory } from "../versions/version-history";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly pipeline: string;
  readonly models: readonly ModelSummary[];
  readonly inService: number | null;
  /** The same along time. */
  readonly course: ComponentProps<typeof VersionHistory>;
  readonly history: Awaited<ReturnType<typeof serviceHistory>>;
}

/** How a version did against the one that was in service when it was trained. */
function Held({ challenge }: { readonly challenge: Challenge }) {
  const [low, high] = challenge.interval ?? [-Infinity, Infinity];
  const better = low > 0 ? "text-moss" : "text-faded";
  const tone = high < 0 ? "text-madder" : better;
  return (
    <span title={challenge.because}>
      <span className={`figure ${tone}`}>
        {challenge.gain >= 0 ? "+" : "−"}
        {formatNumber(Math.abs(challenge.gain))}
      </span>{" "}
      <span className="text-faded">
        {METRICS[challenge.metric].title} against version {challenge.against}
        {low <= 0 && high >= 0 ? ", not significant" : ""}
      </span>
    </span>
  );
}

/** Versions shown at once; the others are under Compare. */
const MOST = 12;

/** Every version with its state, what it was trained from, and how it came to serve; and the changes so far. */
export function VersionsInService({ pipeline, models, inService, history, course }: Props) {
  const last = history
    .map((event) => models.find((model) => model.id === event.modelId))
    .find((model) => model !== undefined && model.id !== inService && model.retiredAt === null);
  const before = (model: ModelSummary): ModelSummary | undefined =>
    models
      .filter((oneModel) => oneModel.number < model.number)
      .sort((left, right) => right.number - left.number)[0];
  const shown = [...models]
    .sort(
      (left, right) =>
        Number(right.id === inService) - Number(left.id === inService) || right.number - left.number,
    )
    .slice(0, MOST);
  const numberOf = (id: number | null): string =>
    models.find((model) => model.id === id)?.number.toString() ?? "?";
  return (
    <section aria-label="Versions">
      <div className="flex items-center gap-4">
        <h2>Versions</h2>
        {last && inService !== null && (
          <ServiceButton model={last.id} version={last.number} inService={false} quiet>
            Revert to version {last.number}
          </ServiceButton>
        )}
      </div>
      <Sheet className="mt-1" data-testid="versions">
        <thead>
          <tr>
            <th>Version</th>
            <th>State</th>
            <th>Metrics on its holdout</th>
            <th>On common rows</th>
            <th>Trained as of</th>
            <th>In service since</th>
            <HiddenHead name="Actions" />
          </tr>
        </thead>
        <tbody>
          {shown.map((model) => {
            const serves = model.id === inService;
            const change = history.find((entry) => entry.modelId === model.id);
            return (
              <tr key={model.id}>
                <td className="min-w-48">
                  <PageLink className="font-medium" href={`/models/${model.id}`}>
                    version {model.number}
                  </PageLink>{" "}
                  {model.candidate}
                  {before(model) && (
                    <PageLink
                      className="block text-caption text-faded"
                      href={`/pipelines/${encodeURIComponent(pipeline)}/compare?pick=${before(model)!.id},${model.id}`}
                    >
                      changes since version {before(model)!.number}
                    </PageLink>
                  )}
                </td>
                <td>
                  {serves && <span className="border-b-2 border-moss text-moss">in service</span>}
                  {!serves && model.retiredAt && (
                    <span className="text-faded">retired {moment(model.retiredAt)}</span>
                  )}
                  {!serves && !model.retiredAt && "candidate"}
                </td>
                <td className="figure whitespace-nowrap">{headline(model.metrics)}</td>
                <td className="text-caption">
                  {model.challenge ? (
                    <Held challenge={model.challenge} />
                  ) : (
                    <span className="text-faded">–</span>
                  )}
                </td>
                <td className="figure whitespace-nowrap">
                  <span title={`Trained ${moment(model.createdAt)} (computer’s clock)`}>
                    {moment(model.runTime)}
                  </span>
                </td>
                <td className="text-caption">
                  {change ? (
                    <>
                      <span className="figure">{moment(change.at)}</span>
                      {change.by && ` by ${change.by}`}
                      {change.reason && (
                        <span
                          className="block max-w-72 truncate text-caption text-faded"
                          title={change.reason}
                        >
                          {change.reason}
                        </span>
                      )}
                    </>
                  ) : (
                    <span className="text-faded">never</span>
                  )}
                </td>
                <td className="whitespace-nowrap text-right">
                  {model.retiredAt === null && (
                    <ServiceButton model={model.id} version={model.number} inService={serves} quiet />
                  )}{" "}
                  {!serves && (
                    <RetireButton
                      model={model.id}
                      version={model.number}
                      retired={model.retiredAt !== null}
                    />
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Sheet>
      {models.length > MOST && (
        <p className="mt-1 text-caption text-faded">{models.length - MOST} more under Compare.</p>
      )}
      {history.length > 0 && (
        <Fold className="mt-2 text-caption" summary="Service history">
          <div className="my-2">
            <VersionHistory {...course} />
          </div>
          <ul className="mt-1">
            {history.map((event) => (
              <li key={event.id}>
                <span className="figure text-faded">{moment(event.at)}</span>{" "}
                {event.modelId === null
                  ? "no version in service"
                  : `version ${numberOf(event.modelId)} put in service`}
                {event.by && ` by ${event.by}`}
                {event.reason && `: ${event.reason}`}
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </section>
  );
}
