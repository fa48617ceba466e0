import { formatNumber, formatShare } from "../format/numbers";
import type { Delivery } from "../pipeline/operating-schema";
import { writeTableName } from "../pipeline/table-name";
import { problem, type Problem } from "../problem";
import { findTable, type Catalog } from "./catalog";
import type { SourceUse } from "./plan";
import type { RowProfile } from "./row-profile";

/** Source columns that are gone or have another type than when the version was trained. Each stops the scoring. */
export function brokenSources(trained: readonly SourceUse[], now: Catalog): readonly Problem[] {
  return trained.flatMap((source) => {
    const name = writeTableName(source);
    const current = findTable(now, source);
    if (!current)
      return [
        problem(
          "source_gone",
          `The table ${name} no longer exists, or cannot be read.`,
          "Restore it, or change the pipeline and retrain. Existing predictions were kept.",
        ),
      ];
    return source.columns.flatMap((wanted) => {
      const found = current.columns.find((column) => column.name === wanted.name);
      if (!found)
        return [
          problem(
            "source_gone",
            `The column "${wanted.name}" of ${name} no longer exists.`,
            "Restore it, or change the pipeline and retrain. Existing predictions were kept.",
          ),
        ];
      if (found.declared !== wanted.declared)
        return [
          problem(
            "source_retyped",
            `The column "${wanted.name}" of ${name} was ${wanted.declared} in training and is ${found.declared} now.`,
            "Change it back, or retrain. Existing predictions were kept.",
          ),
        ];
      return [];
    });
  });
}

/** Something in the rows to score that the contract does not allow. */
export interface Breach {
  readonly problem: Problem;
  /** The column it is about; none when it is about the number of rows. */
  readonly column?: string;
  readonly kind: "missing" | "unseen" | "outside" | "rows";
  /** Whether it stops the scoring, whatever the contract says of other breaches. */
  readonly stops?: boolean;
}

/** What can be done about a bound of the contract: rows on demand have bounds that nobody wrote. */
type BoundAdvice = (bound: keyof Delivery["contract"], change: string) => string;

/**
 * Compares the rows to score with the training rows, column by column, within the bounds of a delivery.
 * @param onDemand whether they are rows that somebody chose, for which no file says a contract
 */
export function brokenProfile(
  trained: RowProfile,
  now: RowProfile,
  contract: Delivery["contract"],
  onDemand = false,
): readonly Breach[] {
  const advice: BoundAdvice = (bound, change) => (onDemand ? "" : `; or ${change} contract.${bound}`);
  const found: Breach[] = [...brokenCounts(now, contract)];
  if (now.rows === 0) return found;
  for (const [name, counts] of Object.entries(now.columns)) {
    const before = trained.columns[name];
    const share = (rows = 0): number => rows / now.rows;
    const missingBefore = before && trained.rows > 0 ? before.missing / trained.rows : 0;
    if (share(counts.missing) > missingBefore + contract.most_missing_increase)
      found.push({
        kind: "missing",
        column: name,
        problem: problem(
          "contract_missing",
          `"${name}" is missing in ${formatShare(share(counts.missing))} of the rows to score, but was in ${formatShare(missingBefore)} in training.`,
          `Check its source${advice("most_missing_increase", "raise")}.`,
        ),
      });
    const unseen = unseenBreach(name, counts, now.rows, { contract, advice, onDemand });
    if (unseen) found.push(unseen);
    if (contract.most_outside !== undefined && share(counts.outside) > contract.most_outside)
      found.push({
        kind: "outside",
        column: name,
        problem: problem(
          "contract_outside",
          `"${name}" is outside ${formatNumber(before?.low)} to ${formatNumber(before?.high)}, the range in training, in ${formatShare(share(counts.outside))} of the rows to score.`,
          `Check its source, or retrain${advice("most_outside", "raise")}.`,
        ),
      });
  }
  return found;
}

/** Breaches of the number of rows. */
function brokenCounts(now: RowProfile, contract: Delivery["contract"]): readonly Breach[] {
  const { least_rows: least, most_rows: most } = contract;
  const say = `${formatNumber(now.rows)} rows are to be scored; the contract requires`;
  const breach = (message: string, hint: string): Breach => ({
    kind: "rows",
    problem: problem("contract_rows", message, hint),
  });
  return [
    ...(least !== undefined && now.rows < least
      ? [
          breach(
            `${say} ${formatNumber(least)} at least.`,
            "Check that its source was loaded, or lower contract.least_rows.",
          ),
        ]
      : []),
    ...(most !== undefined && now.rows > most
      ? [
          breach(
            `${say} ${formatNumber(most)} at most.`,
            "Check that its source was not loaded twice, or raise contract.most_rows.",
          ),
        ]
      : []),
  ];
}

/** A column with values that training never saw: too many of them, or nothing else. */
function unseenBreach(
  name: string,
  { unseen, missing }: RowProfile["columns"][string],
  rows: number,
  bounds: {
    readonly contract: Delivery["contract"];
    readonly advice: BoundAdvice;
    readonly onDemand: boolean;
  },
): Breach | undefined {
  const { contract, advice, onDemand } = bounds;
  const stops = contract.all_unseen === "stop" && contract.most_unseen < 1;
  if (unseen > 0 && unseen + missing === rows && stops)
    return {
      kind: "unseen",
      column: name,
      stops: true,
      problem: problem(
        "contract_all_unseen",
        `Training had none of the values that "${name}" has in the rows to score: all ${formatNumber(unseen)} of them are unseen.`,
        onDemand
          ? "Check whether their spelling changed. If they are correct, score anyway: --all-unseen warn, or the checkbox on the page."
          : "Check whether their spelling changed. If they are correct, retrain, or set contract.all_unseen to warn.",
      ),
    };
  if (unseen <= contract.most_unseen * rows) return undefined;
  return {
    kind: "unseen",
    column: name,
    problem: problem(
      "contract_unseen",
      `${formatShare(unseen / rows)} of the rows to score have a "${name}" that is unseen in training.`,
      `Check its source, or retrain${advice("most_unseen", "raise")}.`,
    ),
  };
}
