import { z } from "zod";
import { formatNumber } from "../format/numbers";

/**
 * How one column was spread in training, over parts. Numbers: values that are frequent are parts of their own, the rest
 * lies between edges that part it about evenly. Categories: the most frequent levels, then the other ones that training saw.
 * What training never saw is a part as well.
 */
export const columnSpreadSchema = z.object({
  column: z.string(),
  kind: z.enum(["number", "category"]),
  /** Numbers, ascending: where the values that are no parts of their own are parted, an edge belonging to what lies above. */
  edges: z.array(z.number()),
  /** Numbers, ascending: values that are parts of their own. */
  values: z.array(z.number()).optional(),
  /** Numbers: the smallest and the largest value that training saw. */
  range: z.tuple([z.number(), z.number()]).optional(),
  /** Categories: the levels of parts 0 and so on; the last part is every other. */
  levels: z.array(z.string()),
  /** Categories: the other levels that training saw, as the part before the last; undefined where they are too many to list. */
  others: z.array(z.string()).optional(),
  /** Rows by part. */
  counts: z.array(z.number()),
  missing: z.number(),
});
export type ColumnSpread = z.infer<typeof columnSpreadSchema>;
export type SpreadShape = Omit<ColumnSpread, "counts" | "missing">;

/** A place between two parts of a number: just below a value, or just above it. */
interface Cut {
  readonly at: number;
  readonly above: boolean;
}

/** A part of a number; open at an end that is not there. */
export interface NumberPart {
  readonly from?: Cut;
  readonly to?: Cut;
}

/** The parts of a number column, in order: counts of a spread are by these. */
export function numberParts({ edges, values = [], range }: SpreadShape): readonly NumberPart[] {
  const below = [...edges, ...values, ...(range ? [range[0]] : [])].map((at) => ({ at, above: false }));
  const above = [...values, ...(range ? [range[1]] : [])].map((at) => ({ at, above: true }));
  const cuts = [...below, ...above]
    .sort((left, right) => left.at - right.at || Number(left.above) - Number(right.above))
    .filter((cut, index, all) => cut.at !== all[index - 1]?.at || cut.above !== all[index - 1]!.above);
  return [undefined, ...cuts].map((from, index) => ({
    ...(from ? { from } : {}),
    ...(cuts[index] ? { to: cuts[index] } : {}),
  }));
}

/** Number of parts of a column. */
export const partCount = (shape: SpreadShape): number =>
  shape.kind === "number"
    ? numberParts(shape).length
    : shape.levels.length + (shape.others === undefined ? 1 : 2);

function numberPartName({ from, to }: NumberPart): string {
  if (!from && !to) return "all";
  if (!from) return `below ${formatNumber(to!.at)}`;
  if (!to) return `${from.above ? "above" : "from"} ${formatNumber(from.at)}`;
  if (from.at === to.at) return formatNumber(from.at);
  return `${formatNumber(from.at)} to ${formatNumber(to.at)}`;
}

/** What the parts of a column are called. */
export function partNames(shape: SpreadShape): readonly string[] {
  if (shape.kind === "number") return numberParts(shape).map(numberPartName);
  return [...shape.levels, ...(shape.others === undefined ? ["others"] : ["others", "unseen"])];
}

/** Up to so many different values every one is a part of its own. */
export const FEW_VALUES = 20;
/** Shares at which values of a number are looked up: 0, 1/40, ..., 1. What fills a twentieth of the rows is hit twice. */
export const GRID_SHARES: readonly number[] = Array.from({ length: 41 }, (_, index) => index / 40);
/** Grid points that a part between edges holds: a tenth of the rows. */
const POINTS_OF_A_PART = 4;

/**
 * The parts of a number column.
 * @param grid values at {@link GRID_SHARES}, ascending
 * @param few all different values, when they are few
 */
export function numberShape(column: string, grid: readonly number[], few?: readonly number[]): SpreadShape {
  const shape = { column, kind: "number" as const, levels: [] };
  if (few) {
    const values = [...few].sort((left, right) => left - right);
    return { ...shape, edges: [], values };
  }
  if (grid.length === 0) return { ...shape, edges: [] };
  const frequent = new Set(grid.filter((value, index) => value === grid[index + 1]));
  const [smallest, largest] = [grid[0]!, grid.at(-1)!];
  const rest = grid.filter((value) => !frequent.has(value) && value !== smallest && value !== largest);
  const parts = Math.max(1, Math.round((rest.length + 1) / POINTS_OF_A_PART));
  const edges = Array.from(
    { length: parts - 1 },
    (_, index) => rest[Math.round(((index + 1) * (rest.length + 1)) / parts) - 1]!,
  );
  return {
    ...shape,
    edges: [...new Set(edges)],
    values: [...frequent].sort((left, right) => left - right),
    range: [smallest, largest],
  };
}
