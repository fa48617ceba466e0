import { problem, type Problem } from "../problem";
import { termName, type Design } from "./design";

const list = (names: readonly string[]): string => names.slice(0, 5).map((name) => `"${name}"`).join(", ") + (names.length > 5 ? ` and ${names.length - 5} more` : "");

/** Names the columns behind a singular Hessian: one is a linear combination of others. */
export function collinear(design: Design, index: number, combination: Float64Array): Problem {
  const itself = termName(design.terms[index]!);
  const most = combination.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const others = [...combination].flatMap((value, other) => (Math.abs(value) > 1e-6 * Math.max(1, most) ? [termName(design.terms[other]!)] : []));
  const from = others.length === 0 ? "the other columns" : list(others);
  return problem("collinear", `"${itself}" can be computed exactly from ${from}, so their coefficients cannot be told apart.`, `Exclude one of them, or set a small ridge such as 0.001.`);
}

/** Names the columns whose coefficients run away: they separate the classes perfectly, in whole or in part. */
export function divergence(design: Design, step: Float64Array): Problem {
  const most = step.reduce((largest, value) => Math.max(largest, Math.abs(value)), 0);
  const running = [...step].flatMap((value, index) => (index > 0 && Math.abs(value) >= 0.2 * most ? [termName(design.terms[index]!)] : []));
  const names = running.length > 0 ? running : ["intercept"];
  return problem(
    "separated",
    `The classes are separated: ${list(names)} ${names.length > 1 ? "together tell" : "tells"} some rows' answers without fail, so the coefficient${names.length > 1 ? "s" : ""} would grow without bound.`,
    "Look whether this column gives the answer away and exclude it; if it is honest, set a small ridge such as 0.001.",
  );
}

/** A category in which every row has the same answer has no finite coefficient. */
export function separatedLevels(categories: readonly { readonly column: string; readonly levels: readonly (string | null)[]; readonly rows: readonly number[]; readonly positives: readonly number[] }[]): Problem | undefined {
  for (const category of categories) {
    const names = category.levels.flatMap((level, index) => {
      const rows = category.rows[index] ?? 0;
      const positives = category.positives[index] ?? 0;
      return rows > 0 && (positives === 0 || positives === rows) ? [`${category.column} = ${level ?? "(missing)"}`] : [];
    });
    if (names.length > 0) {
      return problem("separated", `In the training rows every row with ${list(names)} has the same answer, so the coefficient would grow without bound.`, "Group rare categories in a derive step, exclude the column if it gives the answer away, or set a small ridge such as 0.001.");
    }
  }
  return undefined;
}
