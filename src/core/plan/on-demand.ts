import { freeName, hidden } from "../names/hidden";
import { binary, cast, column, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import type { ParsedPipeline } from "../pipeline/parse";
import type { Delivery } from "../pipeline/operating-schema";
import type { PipelineFile } from "../pipeline/schema";
import { parseTableName } from "../pipeline/table-name";
import { prune, pruneUnread } from "../relation/prune";
import {
  filter,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
  type TableReference,
} from "../relation/relation";
import { PlanBuilder, readsOf } from "./build";
import type { CheckedPlan, SourceUse } from "./plan";
import { PREDICTION_COLUMN } from "./score";
import { sourceColumn, type ContractColumn, type StandIn } from "./stand-in";

/** Rows that are scored once, because somebody wants to know. */
export interface OnDemand {
  /** The table with the rows, as schema.table: it stands in for the source of the main strand. */
  readonly table: string;
  /** The table that is made of their predictions. */
  readonly into: string;
  /** Columns that are passed through beside the key. */
  readonly columns: readonly string[];
  /** What happens when training saw no value of a column; stops when left out. */
  readonly allUnseen?: "stop" | "warn";
}

/** The delivery of rows that are scored on demand: a table of their own, and a contract that only warns. */
export function onDemandDelivery({ into, columns, allUnseen }: OnDemand, threshold: number): Delivery {
  return {
    name: `on demand: ${into}`,
    of: "predictions",
    table: into,
    mode: "replace",
    rows: "all",
    reasons: 0,
    hand_over: [],
    routes: [],
    columns: [...columns],
    threshold,
    contract: {
      otherwise: "warn",
      all_unseen: allUnseen ?? "stop",
      unanswered: "leave_out",
      most_missing_increase: 0.2,
      most_unseen: 0.2,
      most_worse: 0.1,
    },
  };
}

/** A pipeline all of whose rows are scored, into one table. */
export function onDemandPipeline(parsed: ParsedPipeline, delivery: Delivery): ParsedPipeline {
  return {
    ...parsed,
    file: {
      ...parsed.file,
      rows: { ...parsed.file.rows, score: "true" },
      delivery: [delivery],
      schedules: [],
    },
  };
}

/** The table that a strand begins with; undefined when it begins with another strand. */
function sourceOf({ from }: PipelineFile["strands"][number]): TableReference | undefined {
  if (typeof from === "string") return parseTableName(from);
  return "table" in from ? from : undefined;
}

/** The table that the main strand of a file begins with; undefined when it begins with another strand. */
export function mainSource(file: PipelineFile): TableReference | undefined {
  const main = file.strands.find((strand) => strand.name === file.rows.from);
  return main && sourceOf(main);
}

/** The sources of a version that its other strands read: those that rows on demand do not stand in for. */
export function otherSources(file: PipelineFile, sources: readonly SourceUse[]): readonly SourceUse[] {
  const read = file.strands.filter((strand) => strand.name !== file.rows.from).map(sourceOf);
  return sources.filter((source) =>
    read.some((other) => other?.schema === source.schema && other.table === source.table),
  );
}

/** What rows scored on demand consist of. */
export interface OnDemandContract {
  /** Columns that the key, the features and the columns passed through descend from, and those that decide which rows there are. */
  readonly needed: readonly ContractColumn[];
  /** Further columns from which the answer is made: not needed, but then it is known which predictions are right. */
  readonly answer: readonly ContractColumn[];
}

/** Columns of the rows that the main strand begins with from which some of its final columns are made. */
function descentOf(plan: CheckedPlan, names: readonly string[]): readonly string[] {
  const source = { schema: "", table: "" };
  const rows = new PlanBuilder({ ...plan, standIn: { source, columns: new Map() } }).main({ learned: {} });
  const reads = readsOf(prune(filter(rows, plan.score), new Set([...names, ...columnsOf(plan.score)])));
  const used = [...reads.values()].find((name) => name.schema === "" && name.table === "")?.columns;
  return [...plan.main.start.keys()].filter((name) => used?.has(sourceColumn(plan.main, name)));
}

/**
 * What rows need to be scored by a plan, with the types that it was checked with.
 * @param plan the plan of {@link onDemandPipeline}
 * @param declared types of the main strand's source as the warehouse writes them
 */
export function onDemandContract(plan: CheckedPlan, declared: ReadonlyMap<string, string>): OnDemandContract {
  const { roles, delivery } = plan.file;
  const needed = descentOf(plan, [
    ...roles.key,
    ...plan.features.map((feature) => feature.name),
    ...delivery.flatMap((delivery) => delivery.columns),
  ]);
  const answer = descentOf(plan, [...roles.key, ...columnsOf(plan.target)]);
  const contractOf = (name: string): ContractColumn => {
    const type = plan.main.start.get(name)?.type ?? "other";
    const own = sourceColumn(plan.main, name);
    return { name: own, type, declared: declared.get(own) ?? type };
  };
  return {
    needed: needed.map(contractOf),
    answer: answer.filter((name) => !needed.includes(name)).map(contractOf),
  };
}

/** Whether a relation reads columns that the rows standing in do not have. */
export function readsWhatIsAbsent(relation: Relation, { source, columns }: StandIn): boolean {
  const reads = readsOf(pruneUnread(relation)).values();
  return [...reads].some(
    (oneName) =>
      oneName.schema === source.schema &&
      oneName.table === source.table &&
      [...oneName.columns].some((name) => !columns.has(name)),
  );
}

/** Hidden name of the answer, while the rows are scored. */
export const ANSWER = hidden("answer");

/** Columns that say how predictions turned out, where the answers are known. */
export interface AnswerNames {
  readonly answer: string;
  /** Yes and no, classes: whether the prediction is right. Numbers: prediction less answer. */
  readonly verdict: string;
}

/** The names of those columns; numbered when the user's own columns are called so. */
export function answerNames(plan: CheckedPlan): AnswerNames {
  const taken = [...plan.file.roles.key, ...plan.file.delivery.flatMap((delivery) => delivery.columns)];
  const free = (name: string): string => freeName(name, taken);
  return {
    answer: free("answer"),
    verdict: free(plan.file.roles.target.kind === "number" ? "error" : "correct"),
  };
}

/** Rows to score with their answer, under its hidden name: a boolean, a number, or the text of a class. */
export function withAnswer(plan: CheckedPlan, rows: Relation): Relation {
  const { kind } = plan.file.roles.target;
  const asText = kind === "classes" ? cast(plan.target, "text") : plan.target;
  const expression = kind === "number" ? cast(plan.target, "double precision") : asText;
  return withColumns(rows, [{ name: ANSWER, expression }]);
}

/** Scored rows that tell the answer, and how the prediction holds against it; NULL where either is missing. */
export function tellAnswers(plan: CheckedPlan, scored: Relation): Relation {
  const names = answerNames(plan);
  const prediction = column(PREDICTION_COLUMN);
  const verdict: Expression = binary(
    prediction,
    plan.file.roles.target.kind === "number" ? "-" : "=",
    column(ANSWER),
  );
  const items = outputColumns(scored).flatMap((name): NamedExpression[] => {
    if (name === ANSWER) return [];
    const item = { name, expression: column(name) };
    return name === PREDICTION_COLUMN
      ? [
          item,
          { name: names.answer, expression: column(ANSWER) },
          { name: names.verdict, expression: verdict },
        ]
      : [item];
  });
  return project(scored, items);
}
