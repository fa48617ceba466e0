import { suggestion } from "../nearest";
import type { PipelineFile } from "../pipeline/schema";
import type { Delivery } from "../pipeline/operating-schema";
import { parseTableName } from "../pipeline/table-name";
import { located, problem, type Problem } from "../problem";
import type { ColumnSet, ColumnState } from "../steps/step";
import type { ValueType } from "../value-type";
import { requireCondition } from "./check-roles";
import { checkedExpression, type Expressions } from "./check-strands";
import { FEATURE_STAMPS } from "./prepared-features";
import { PREDICTION_COLUMN, PREDICTION_TYPES, PROBABILITY_COLUMN, REASONS_COLUMN } from "./score";

type Path = readonly (string | number)[];

export interface DeliveryChecks {
  readonly file: PipelineFile;
  /** Columns at the end of the main strand. */
  readonly main: ColumnSet;
  /** Whether steps above are wrong, so that a missing column may be their fault. */
  readonly broken: boolean;
  readonly expressions: Expressions;
  readonly report: (found: Problem) => void;
}

/** Columns that Ravlen writes beside the key and what the file lists. */
const OWN = ["prediction", "probability", "model_version", "run_id", "scored_at", "run_time"] as const;

const ownColumns = ({ of, reasons }: Delivery): readonly string[] => {
  if (of === "features") return FEATURE_STAMPS;
  return reasons > 0 ? [...OWN, REASONS_COLUMN] : OWN;
};

/** Checks every delivery: tables, further columns, and what its mode, its rows and its routes speak of. */
export function checkDeliveries(checks: DeliveryChecks): void {
  checks.file.delivery.forEach((delivery, index) => checkDelivery(delivery, ["delivery", index], checks));
}

function checkDelivery(delivery: Delivery, path: Path, checks: DeliveryChecks): void {
  const { file, main, broken, report } = checks;
  const tables = [delivery.table, ...delivery.routes.map((route) => route.table)];
  tables.forEach((name, index) => {
    const place = index === 0 ? [...path, "table"] : [...path, "routes", index - 1, "table"];
    if (!parseTableName(name))
      report(
        problem("unknown_table", `"${name}" is not a table name.`, "Write schema.table.", { path: place }),
      );
    else if (tables.indexOf(name) < index)
      report(
        problem(
          "duplicate_table",
          `Two routes of "${delivery.name}" lead to "${name}".`,
          "Join their conditions with or, or choose another table.",
          { path: place },
        ),
      );
  });
  if (delivery.of === "features") checkFeatures(delivery, path, checks);
  const own = ownColumns(delivery);
  const fixed = delivery.of === "features" ? [...main.keys()] : file.roles.key;
  fixed
    .filter((name) => own.includes(name))
    .forEach((name) =>
      report(
        problem(
          "reserved_name",
          delivery.of === "features"
            ? `The column "${name}" has a name that is reserved in feature tables.`
            : `The key column "${name}" has a name that is reserved in prediction tables.`,
          "Rename it in a rename step.",
          { path: [...path, "table"] },
        ),
      ),
    );
  delivery.columns.forEach((name, position) => {
    const state = main.get(name);
    const written = new Set<string>([...file.roles.key, ...own]);
    const place = [...path, "columns", position];
    if (!state && !broken)
      report(
        problem(
          "unknown_column",
          `The rows of "${file.rows.from}" have no column "${name}" at the end of the strand.`,
          suggestion(name, main.keys(), "column"),
          { path: place },
        ),
      );
    if (state?.bundle)
      report(
        problem(
          "bundle_read",
          `"${name}" was replaced by one-hot columns and cannot be delivered.`,
          "Derive a copy with another name before the encode step.",
          { path: place },
        ),
      );
    if (written.has(name))
      report(
        problem(
          "duplicate_column",
          `The prediction table already has a column "${name}".`,
          "Remove it here.",
          { path: place },
        ),
      );
  });
  const carried = delivery.of === "features" ? [...main.keys()] : [...file.roles.key, ...delivery.columns];
  const mustCarry = (name: string, place: Path): void => {
    if (!carried.includes(name))
      report(
        problem(
          "not_delivered",
          `"${name}" is neither in the key nor among the delivery's columns.`,
          `Add it under columns. Delivered are ${carried.join(", ")}.`,
          { path: place },
        ),
      );
  };
  if (delivery.mode === "partition" && delivery.partition === undefined)
    report(
      problem(
        "no_partition",
        `The mode partition needs a partition column.`,
        "Add partition: and a column such as a day.",
        { path: [...path, "mode"] },
      ),
    );
  if (delivery.mode !== "partition" && delivery.partition !== undefined)
    report(
      problem("no_partition", `partition applies to mode: partition only.`, "Set that mode, or remove it.", {
        path: [...path, "partition"],
      }),
    );
  if (delivery.partition !== undefined) mustCarry(delivery.partition, [...path, "partition"]);
  if (typeof delivery.rows === "object") mustCarry(delivery.rows.newer_by, [...path, "rows", "newer_by"]);
  if (delivery.rows !== "all" && delivery.mode === "replace")
    report(
      problem(
        "rows_and_replace",
        "Replacing the table with only the new rows would lose the others.",
        "Use mode: upsert or append, or rows: all.",
        { path: [...path, "rows"] },
      ),
    );
  const columns = deliveredColumns(file, main, delivery);
  delivery.routes.forEach((route, position) => {
    const place = [...path, "routes", position, "when"];
    requireCondition(
      checkedExpression(checks.expressions, route.when, columns, { aggregates: "forbidden" }, (found) => {
        if (!broken || found.code !== "unknown_column") report(located(found, { path: place }));
      }),
      place,
      report,
    );
  });
}

/** What has a meaning for predictions only. */
function checkFeatures({ name, reasons, routes }: Delivery, path: Path, { report }: DeliveryChecks): void {
  const settings = [...(reasons > 0 ? ["reasons"] : []), ...(routes.length > 0 ? ["routes"] : [])];
  for (const setting of settings)
    report(
      problem(
        "only_predictions",
        `"${name}" delivers features, which have no ${setting}.`,
        `Remove ${setting}, or deliver predictions.`,
        { path: [...path, setting] },
      ),
    );
}

/** What conditions of routes may speak of: key, prediction, probability, and the further columns. */
function deliveredColumns(file: PipelineFile, main: ColumnSet, delivery: Delivery): ColumnSet {
  const { kind } = file.roles.target;
  const made = (name: string, type: ValueType): readonly [string, ColumnState] => [
    name,
    { name, type, nullable: false, identity: `delivery:${name}`, sources: [], parents: [] },
  ];
  const carried = [...file.roles.key, ...delivery.columns].flatMap(
    (name): (readonly [string, ColumnState])[] => {
      const state = main.get(name);
      return state ? [[name, state]] : [];
    },
  );
  return new Map([
    ...carried,
    made(PREDICTION_COLUMN, PREDICTION_TYPES[kind]),
    ...(kind === "number" ? [] : [made(PROBABILITY_COLUMN, "double precision")]),
  ]);
}
