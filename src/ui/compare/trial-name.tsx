import { formatShare } from "@/core/format/numbers";
import { namedSettings } from "@/core/format/setting-text";
import { someOf } from "@/core/format/some-names";
import type { ModelSummary } from "@/store/models";
import { TriangleAlert } from "lucide-react";
import { moment } from "../basic/format";
import { PageLink } from "../basic/page-link";

/** Settings that are rarely changed. */
const QUIET = new Set([
  "most_levels",
  "tolerance",
  "most_passes",
  "sample_rows",
  "reference",
  "bins",
  "seed",
  "validation_share",
  "stop_after",
  "least_gain",
  "missing",
  "balance",
  "epochs",
  "batch",
]);

/** The settings of a trial that matter, in one line. */
function settingsOf({ data }: ModelSummary): string {
  const loud = Object.entries(data.settings ?? {}).filter(([name]) => !QUIET.has(name));
  const named = namedSettings(Object.fromEntries(loud));
  const share = data.share === undefined ? [] : [`${formatShare(data.share)} of the rows`];
  return [...(named.length > 0 ? [someOf(named, 4)] : []), ...share].map((part) => `${part}; `).join("");
}

/** A trial by version and candidate, with its settings and what was flagged. */
export function TrialName({
  model,
  isInService,
  file,
}: {
  readonly model: ModelSummary;
  readonly isInService: boolean;
  /** Number of its file version. */
  readonly file: number | undefined;
}) {
  const without = model.data.without ?? [];
  const suspects = [...new Set((model.findings ?? []).flatMap(({ feature }) => feature ?? []))];
  return (
    <>
      <PageLink className="font-medium" href={`/models/${model.id}`}>
        version {model.number}
      </PageLink>{" "}
      {model.candidate}
      {without.length > 0 && <span className="text-plum"> without {without.join(", ")}</span>}
      {isInService && <span className="ml-2 border-b-2 border-moss text-caption text-moss">in service</span>}
      {suspects.length > 0 && (
        <PageLink
          href={`/models/${model.id}`}
          className="ml-2 text-caption text-madder"
          title={model.findings!.map(({ message }) => message).join("\n")}
        >
          <TriangleAlert size={13} className="mr-0.5 inline" aria-hidden />
          possible leakage: {someOf(suspects, 2)}
        </PageLink>
      )}
      <span className="block text-caption text-faded">
        {settingsOf(model)}
        {model.engine === "warehouse" ? "rows stayed in the warehouse" : "rows streamed"}; file version{" "}
        {file ?? "?"}; as of {moment(model.runTime)}
      </span>
    </>
  );
}
