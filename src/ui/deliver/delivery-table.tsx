import { formatNumber } from "@/core/format/numbers";
import { deliveryNamed } from "@/core/pipeline/deliveries";
import type { Delivery } from "@/core/pipeline/operating-schema";
import type { RunRow } from "@/store/runs";
import type { LedgerEntry } from "@/warehouse/port/landing";
import { ScoreButton } from "../basic/actions";
import { moment } from "../basic/format";
import { tableHref } from "../basic/table-href";
import type { DeliveryFacts } from "./delivery-draft";
import { DeliveryForm } from "./delivery-form";
import { modeWords, rowWords } from "./delivery-words";
import { RemoveListed } from "./remove-listed";
import { PageLink } from "../basic/page-link";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly facts: DeliveryFacts;
  readonly deliveries: readonly Delivery[];
  /** What has landed last, by delivery. */
  readonly ledger: readonly LedgerEntry[];
  /** The newest run of each delivery. */
  readonly runs: readonly RunRow[];
  readonly canScore: boolean;
}

/** That the newest run of a delivery was stopped, and why; nothing when it landed, or is under way. */
function StoppedLine({ run }: { readonly run: RunRow | undefined }) {
  if (run?.state !== "failed" && run?.state !== "cancelled") return null;
  const [problem] = run.problems;
  return (
    <span className="mt-1 block text-caption text-madder">
      <PageLink className="text-madder" href={`/runs/${run.id}`}>
        {run.state === "failed" ? "stopped" : "cancelled"}
      </PageLink>{" "}
      as of {moment(run.runTime)}
      {problem ? `: ${problem.message}` : ""}
    </span>
  );
}

/** One route of a delivery: its table, its condition, and how many rows took it the last time. */
function RouteLine({
  table,
  when,
  rows,
}: {
  readonly table: string;
  readonly when: string;
  readonly rows: number | undefined;
}) {
  const href = rows === undefined ? undefined : tableHref(table);
  return (
    <span className="mb-1 block">
      {href ? <PageLink href={href}>{table}</PageLink> : table}
      <span className="block text-caption text-faded">
        where <code>{when}</code>
        {rows === undefined ? "" : `: ${formatNumber(rows)}`}
      </span>
    </span>
  );
}

/** Where predictions go, how, and what landed last; the name of each opens its form. */
export function DeliveryTable({ facts, deliveries, ledger, runs, canScore }: Props) {
  return (
    <Sheet className="mt-1">
      <thead>
        <tr>
          <th>Delivery</th>
          <th>Into</th>
          <th>How</th>
          <th>Threshold</th>
          <th>Last landed, as of</th>
          <th className="number">Rows</th>
          <HiddenHead name="Actions" />
        </tr>
      </thead>
      <tbody>
        {deliveries.map((delivery, place) => {
          const last = ledger.find((entry) => entry.delivery === delivery.name);
          const href = tableHref(delivery.table);
          return (
            <tr key={delivery.name}>
              <td>
                <DeliveryForm facts={facts} delivery={delivery} place={place}>
                  <button
                    type="button"
                    className="text-left font-medium underline decoration-rule underline-offset-3"
                    title="Edit"
                  >
                    {delivery.name}
                  </button>
                </DeliveryForm>
                {delivery.of === "features" && (
                  <span className="block text-caption text-faded">features</span>
                )}
              </td>
              <td>
                {delivery.routes.map((route) => (
                  <RouteLine
                    key={route.table}
                    table={route.table}
                    when={route.when}
                    rows={last?.byTable[route.table]}
                  />
                ))}
                {last && href ? <PageLink href={href}>{delivery.table}</PageLink> : delivery.table}
                {delivery.routes.length > 0 && (
                  <span className="block text-caption text-faded">
                    rows that match no route
                    {last?.byTable[delivery.table] === undefined
                      ? ""
                      : `: ${formatNumber(last.byTable[delivery.table])}`}
                  </span>
                )}
              </td>
              <td>
                {modeWords(delivery)}
                <span className="block text-caption text-faded">{rowWords(delivery)}</span>
              </td>
              <td className="figure">
                {facts.target === "binary" && delivery.of === "predictions"
                  ? formatNumber(delivery.threshold)
                  : "–"}
              </td>
              <td>
                {last ? (
                  <PageLink
                    href={`/runs/${last.run}`}
                    title={`Landed ${moment(last.landedAt)} (computer’s clock)`}
                  >
                    {moment(last.runTime)}
                  </PageLink>
                ) : (
                  <span className="text-faded">never</span>
                )}
                <StoppedLine
                  run={runs.find((run) => deliveryNamed(deliveries, run.options.delivery) === delivery)}
                />
              </td>
              <td className="number">{formatNumber(last?.rows)}</td>
              <td className="whitespace-nowrap text-right">
                <ScoreButton
                  pipeline={facts.pipeline}
                  delivery={delivery.name}
                  features={delivery.of === "features"}
                  disabled={!canScore && delivery.of === "predictions"}
                />{" "}
                <RemoveListed pipeline={facts.pipeline} part="delivery" place={place} name={delivery.name} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}
