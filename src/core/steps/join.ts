import { hidden } from "../names/hidden";
import { z } from "zod";
import {
  allOf,
  binary,
  call,
  column,
  countRows,
  integer,
  isNotNull,
  type Expression,
} from "../expression/ast";
import { fromOtherSide, otherSide } from "../expression/sides";
import { columnsOf, mapExpression } from "../expression/visit";
import { problem } from "../problem";
import {
  aggregateRows,
  filter,
  keepColumns,
  outputColumns,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";
import { joinedPairs, joinSettings, joinShape, takenColumns } from "./join-columns";
import {
  defineStep,
  expressionText,
  stepCommon,
  type ApplyContext,
  type ColumnState,
  type StepKind,
} from "./step";

const settings = z.strictObject({
  do: z.literal("join"),
  ...stepCommon,
  with: joinSettings.with,
  on: joinSettings.on,
  match: z
    .enum(["one", "many"])
    .default("one")
    .describe(
      'How many rows of the other strand may match one row here. With "one", a second match stops the run; with "many", rows multiply.',
    ),
  unmatched: z
    .enum(["keep", "drop"])
    .default("keep")
    .describe("Rows without a match: keep them with missing columns, or drop them."),
  where: expressionText
    .optional()
    .describe(
      'An additional join condition. The other strand\'s columns are written with its name before them: "town weather".day <= delivered_on.',
    ),
  take: joinSettings.take,
  prefix: joinSettings.prefix,
});
type Settings = z.infer<typeof settings>;

export const joinStep: StepKind = defineStep({
  kind: "join",
  title: "Join a strand",
  help: {
    about: "Adds columns of another strand where the join columns are equal.",
    words: ["merge", "lookup", "enrich", "combine", "left join"],
    missing: "Missing values never match. Rows without a match get missing columns, or are dropped.",
    example: "with: town weather\non: {town: town, delivered_on: day}\ntake: [rain_mm]",
  },
  settings,
  strands: (current) => [current.with],
  sentence: (current) =>
    `join ${current.with} on ${joinedPairs(current.on)
      .map((pair) => (pair.left === pair.right ? pair.left : `${pair.left} = ${pair.right}`))
      .join(", ")}`,
  check: (current, context) => {
    const right = context.strand(current.with, ["with"]);
    const shape = joinShape(current, right, context);
    if (current.where === undefined || !right) return shape;
    const both = new Map([
      ...context.input,
      ...[...right].map(([name, state]): [string, ColumnState] => [otherSide(name), state]),
    ]);
    const found = context.expression(current.where, ["where"], { columns: both, other: current.with });
    if (found && found.checked.type !== "boolean")
      context.report(
        problem(
          "not_a_condition",
          `This gives ${found.checked.type}, but a join needs a condition.`,
          "Compare columns of the two strands.",
        ),
        ["where"],
      );
    const compared = found
      ? columnsOf(found.expression).filter((name) => fromOtherSide(name) === undefined)
      : [];
    return { ...shape, reads: [...new Set([...shape.reads, ...compared])] };
  },
  apply: (current, left, _learned, context): Relation => {
    const right = context.strand(current.with);
    const condition =
      current.where === undefined ? {} : { condition: context.expression(current.where, current.with) };
    return {
      kind: "join",
      how: current.unmatched === "keep" ? "left" : "inner",
      left,
      right,
      on: joinedPairs(current.on),
      take: takenColumns(current, outputColumns(right)),
      ...condition,
    };
  },
  requirements: (current, context: ApplyContext, input) => {
    if (current.match === "many") return [];
    return [
      {
        code: "join_fans_out",
        rows:
          current.where === undefined ? repeatedKeys(current, context) : fannedOut(current, context, input),
        message: `The join "${current.name ?? `with ${current.with}`}" expects at most one row of ${current.with} for each row, but some keys have several`,
        hint: `Make ${current.with} unique by ${joinedPairs(current.on)
          .map((pair) => pair.right)
          .join(", ")} (an aggregate step does that), or set match: many if rows should multiply.`,
      },
    ];
  },
});

const countOf = (name: string): NamedExpression => ({ name, expression: countRows });

/** Keys that several rows of the other strand have: (key..., rows). */
function repeatedKeys(current: Settings, context: ApplyContext): Relation {
  const keys = joinedPairs(current.on).map((pair) => pair.right);
  const complete = filter(context.strand(current.with), allOf(keys.map((name) => isNotNull(column(name)))));
  return filter(
    aggregateRows(complete, keys, [countOf("matching_rows")]),
    binary(column("matching_rows"), ">", integer(1)),
  );
}

/** With a condition, matches depend on the row here: rows here are numbered, joined, and counted. */
function fannedOut(current: Settings, context: ApplyContext, input: Relation): Relation {
  const keys = joinedPairs(current.on).map((pair) => pair.left);
  const numbered = withColumns(input, [
    { name: ROW_NUMBER, expression: { kind: "window", call: call("row_number"), by: [], order: [] } },
  ]);
  const joined: Relation = {
    kind: "join",
    how: "inner",
    left: numbered,
    right: context.strand(current.with),
    on: joinedPairs(current.on),
    take: [],
    condition: context.expression(current.where ?? "true", current.with),
  };
  const counted = aggregateRows(joined, [ROW_NUMBER, ...keys], [countOf("matching_rows")]);
  return keepColumns(filter(counted, binary(column("matching_rows"), ">", integer(1))), [
    ...keys,
    "matching_rows",
  ]);
}

/** Rows without a match, for the diagnosis of a join: of this side with their key, and of the other. */
export function unmatchedRows(
  raw: unknown,
  left: Relation,
  right: Relation,
  condition: Expression | undefined,
): { readonly here: Relation; readonly there: Relation } {
  const current = settings.parse(raw);
  const on = joinedPairs(current.on);
  const missing = (
    from: Relation,
    other: Relation,
    keys: readonly { left: string; right: string }[],
    swap: boolean,
  ): Relation => {
    const marked = withColumns(other, [{ name: MATCHED, expression: integer(1) }]);
    const joined: Relation = {
      kind: "join",
      how: "left",
      left: from,
      right: marked,
      on: keys,
      take: [{ from: MATCHED, name: MATCHED }],
      ...(condition ? { condition: swap ? swapSides(condition) : condition } : {}),
    };
    return keepColumns(
      filter(joined, { kind: "is", operand: column(MATCHED), test: "null", negated: false }),
      keys.map((key) => key.left),
    );
  };
  return {
    here: missing(left, right, on, false),
    there: missing(
      right,
      left,
      on.map((pair) => ({ left: pair.right, right: pair.left })),
      true,
    ),
  };
}

const swapSides = (condition: Expression): Expression =>
  mapExpression(condition, (node) =>
    node.kind === "column" ? column(fromOtherSide(node.name) ?? otherSide(node.name)) : node,
  );

const ROW_NUMBER = hidden("row");
const MATCHED = hidden("matched");
