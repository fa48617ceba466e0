import { z } from "zod";
import { allOf, binary, call, column, integer, isNotNull } from "../expression/ast";
import { problem } from "../problem";
import { aggregateRows, filter, outputColumns, type Relation } from "../relation/relation";
import { areComparable } from "../value-type";
import { defineStep, stepCommon, type ApplyContext, type ColumnState, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("join"),
  ...stepCommon,
  with: z.string().describe("The strand to join."),
  on: z.union([z.array(z.string()).min(1), z.record(z.string(), z.string())]).describe("Columns that must be equal: a list of names both sides have, or this side's name: the other's name."),
  match: z.enum(["one", "many"]).default("one").describe("How many rows of the other strand may match one row here. With \"one\", a second match stops the run; with \"many\", rows multiply."),
  unmatched: z.enum(["keep", "drop"]).default("keep").describe("What happens to rows here that match nothing: keep them with the joined columns missing, or drop them."),
  take: z.array(z.string()).optional().describe("Columns to take over from the other strand. All but the joined ones when left out."),
  prefix: z.string().optional().describe("Put before the names of the columns taken over."),
});
type Settings = z.infer<typeof settings>;

function pairs(on: Settings["on"]): readonly { readonly left: string; readonly right: string }[] {
  return Array.isArray(on) ? on.map((name) => ({ left: name, right: name })) : Object.entries(on).map(([left, right]) => ({ left, right }));
}

function taken(current: Settings, right: readonly string[]): readonly { readonly from: string; readonly name: string }[] {
  const keys = pairs(current.on).map((pair) => pair.right);
  const from = current.take ?? right.filter((name) => !keys.includes(name));
  return from.map((name) => ({ from: name, name: `${current.prefix ?? ""}${name}` }));
}

export const joinStep: StepKind = defineStep({
  kind: "join",
  title: "Join a strand",
  settings,
  sentence: (current) => `join ${current.with} on ${pairs(current.on).map((pair) => (pair.left === pair.right ? pair.left : `${pair.left} = ${pair.right}`)).join(", ")}`,
  check: (current, context) => {
    const right = context.strand(current.with, ["with"]);
    const output = new Map(context.input);
    const reads: string[] = [];
    const writes: string[] = [];
    for (const [index, pair] of pairs(current.on).entries()) {
      const path = Array.isArray(current.on) ? ["on", index] : ["on", pair.left];
      const here = context.column(pair.left, path);
      const there = right?.get(pair.right);
      if (right && !there) context.report(problem("unknown_column", `The strand "${current.with}" has no column "${pair.right}".`, `It has: ${[...right.keys()].slice(0, 8).join(", ")}.`), path);
      if (here && there && !areComparable(here.type, there.type)) {
        context.report(problem("type_clash", `"${pair.left}" is ${here.type} but "${pair.right}" of ${current.with} is ${there.type}; they can never be equal.`, "Derive one of them with CAST(... AS type) first."), path);
      }
      if (here) reads.push(pair.left);
    }
    if (!right) return { output, reads, writes, drops: [] };
    for (const [index, each] of taken(current, [...right.keys()]).entries()) {
      const path = current.take ? ["take", index] : ["with"];
      const state = right.get(each.from);
      if (!state) {
        context.report(problem("unknown_column", `The strand "${current.with}" has no column "${each.from}".`, `It has: ${[...right.keys()].slice(0, 8).join(", ")}.`), path);
        continue;
      }
      if (output.has(each.name)) {
        context.report(problem("duplicate_column", `There would be two columns named "${each.name}".`, "Name the columns to take over under \"take\", or give a \"prefix\"."), path);
        continue;
      }
      const joined: ColumnState = { ...state, name: each.name, nullable: state.nullable || current.unmatched === "keep" };
      output.set(each.name, joined);
      writes.push(each.name);
    }
    return { output, reads, writes, drops: [] };
  },
  apply: (current, left, _learned, context): Relation => {
    const right = context.strand(current.with);
    return { kind: "join", how: current.unmatched === "keep" ? "left" : "inner", left, right, on: pairs(current.on), take: taken(current, outputColumns(right)) };
  },
  requirements: (current, context: ApplyContext) => {
    if (current.match === "many") return [];
    const keys = pairs(current.on).map((pair) => pair.right);
    const complete = filter(context.strand(current.with), allOf(keys.map((name) => isNotNull(column(name)))));
    const counted = aggregateRows(complete, keys, [{ name: "matching_rows", expression: call("count", column(keys[0]!)) }]);
    return [{
      code: "join_fans_out",
      rows: filter(counted, binary(column("matching_rows"), ">", integer(1))),
      message: `The join "${current.name ?? `with ${current.with}`}" expects at most one row of ${current.with} for each row, but some keys have several`,
      hint: `Make ${current.with} unique by ${keys.join(", ")} (an aggregate step does that), or set match: many if rows shall multiply.`,
    }];
  },
});
