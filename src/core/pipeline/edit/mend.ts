import { freeName } from "../../names/hidden";
import { success, type Result } from "../../problem";
import type { Mend } from "../../plan/obstacles";
import { changePart, valueIn } from "./parts";
import { insertStep } from "./steps";

interface RawStep {
  readonly name?: unknown;
}

/** Where the steps of the main strand end: its place among the strands, its steps, and their names. */
function endOfMain(text: string): {
  readonly strand: number;
  readonly position: number;
  readonly names: readonly string[];
} {
  const from = valueIn(text, ["rows", "from"]);
  const strands = (valueIn(text, ["strands"]) ?? []) as readonly {
    readonly name?: unknown;
    readonly steps?: unknown;
  }[];
  const strand = Math.max(
    0,
    strands.findIndex(({ name }) => name === from),
  );
  const steps = (strands[strand]?.steps ?? []) as readonly RawStep[];
  return {
    strand,
    position: steps.length,
    names: steps.flatMap(({ name }) => (typeof name === "string" ? [name] : [])),
  };
}

function withFill(
  text: string,
  name: string,
  columns: readonly string[],
  how: "median" | "most_frequent",
): Result<string> {
  if (columns.length === 0) return success(text);
  const { strand, position, names } = endOfMain(text);
  return insertStep(
    text,
    { strand, position },
    { do: "fill", name: freeName(name, names), columns: [...columns], with: how },
  );
}

/** Changes the file so that an obstacle is gone: one step that fills all gaps, or all columns left out with the reason. */
export function mendObstacle(text: string, mend: Mend): Result<string> {
  if (mend.kind === "fill") {
    const filled = withFill(text, "fill missing values", mend.medians, "median");
    return filled.ok ? withFill(filled.value, "fill yes and no", mend.frequent, "most_frequent") : filled;
  }
  const now = valueIn(text, ["roles", "exclude"]);
  const excluded = Array.isArray(now) ? (now as readonly { readonly column?: unknown }[]) : [];
  const fresh = mend.columns.filter((name) => !excluded.some(({ column }) => column === name));
  return changePart(
    text,
    ["roles", "exclude"],
    [...excluded, ...fresh.map((column) => ({ column, because: mend.because }))],
  );
}
