import { z } from "zod";
import { problem } from "../problem";
import { areComparable } from "../value-type";
import type { CheckContext, ColumnSet, ColumnState, StepShape } from "./step";

/** Settings that every kind of join has. */
export const joinSettings = {
  with: z.string().min(1).describe("The strand to join."),
  on: z
    .union([z.array(z.string()).min(1), z.record(z.string(), z.string())])
    .describe(
      "Columns to join on: a list of names common to both sides, or this side's name: the other's name.",
    ),
  take: z
    .array(z.string())
    .optional()
    .describe("Columns to add from the other strand. All except the join columns if omitted."),
  prefix: z.string().optional().describe("Prefix for the names of added columns."),
};

export interface JoinSettings {
  readonly with: string;
  readonly on: readonly string[] | Readonly<Record<string, string>>;
  readonly take?: readonly string[] | undefined;
  readonly prefix?: string | undefined;
  readonly unmatched: "keep" | "drop";
}

export interface JoinedPair {
  readonly left: string;
  readonly right: string;
}

const isList = (on: JoinSettings["on"]): on is readonly string[] => Array.isArray(on);

export const joinedPairs = (on: JoinSettings["on"]): readonly JoinedPair[] =>
  isList(on)
    ? on.map((name) => ({ left: name, right: name }))
    : Object.entries(on).map(([left, right]) => ({ left, right }));

/** Columns taken over, with the names they get here. */
export function takenColumns(
  current: JoinSettings,
  right: readonly string[],
): readonly { readonly from: string; readonly name: string }[] {
  const keys = joinedPairs(current.on).map((pair) => pair.right);
  return (current.take ?? right.filter((name) => !keys.includes(name))).map((name) => ({
    from: name,
    name: `${current.prefix ?? ""}${name}`,
  }));
}

/** A column of the other strand, or undefined (and a problem reported) when it does not exist. */
export function columnThere(
  current: JoinSettings,
  right: ColumnSet | undefined,
  context: CheckContext,
  name: string,
  path: readonly (string | number)[],
): ColumnState | undefined {
  const found = right?.get(name);
  if (right && !found)
    context.report(
      problem(
        "unknown_column",
        `The strand "${current.with}" has no column "${name}".`,
        `It has: ${[...right.keys()].slice(0, 8).join(", ")}.`,
      ),
      path,
    );
  return found;
}

/** Checks the compared columns and works out those taken over. */
export function joinShape(
  current: JoinSettings,
  right: ColumnSet | undefined,
  context: CheckContext,
): StepShape {
  const output = new Map(context.input);
  const reads: string[] = [];
  for (const [index, pair] of joinedPairs(current.on).entries()) {
    const path = isList(current.on) ? ["on", index] : ["on", pair.left];
    const here = context.column(pair.left, path);
    const there = columnThere(current, right, context, pair.right, path);
    if (here && there && !areComparable(here.type, there.type)) {
      context.report(
        problem(
          "type_clash",
          `"${pair.left}" is ${here.type} but "${pair.right}" of ${current.with} is ${there.type}; they can never be equal.`,
          "Convert one of them in an earlier step.",
        ),
        path,
      );
    }
    if (here) reads.push(pair.left);
  }
  const joined = new Map<string, { strand: string; column: string }>();
  for (const [index, value] of (right ? takenColumns(current, [...right.keys()]) : []).entries()) {
    const path = current.take ? ["take", index] : ["with"];
    const state = columnThere(current, right, context, value.from, path);
    if (!state) continue;
    if (output.has(value.name)) {
      context.report(
        problem(
          "duplicate_column",
          `There would be two columns named "${value.name}".`,
          'Name the columns to add under "take", or give a "prefix".',
        ),
        path,
      );
      continue;
    }
    output.set(value.name, {
      ...state,
      name: value.name,
      nullable: state.nullable || current.unmatched === "keep",
    });
    joined.set(value.name, { strand: current.with, column: value.from });
  }
  return { output, reads, writes: [...joined.keys()], drops: [], joined };
}
