import { allOf, binary, cast, column, text } from "@/core/expression/ast";
import { PlanBuilder } from "@/core/plan/build";
import type { CheckedPlan, CheckedStep } from "@/core/plan/plan";
import { pageQuestion, type Page } from "@/core/questions/page";
import { filter, outputColumns, type Relation } from "@/core/relation/relation";
import { joinedPairs } from "@/core/steps/join-columns";
import type { ColumnSet } from "@/core/steps/step";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { relationAt } from "./preview";

/** One row at one place of the main strand. */
export interface FollowedPlace {
  readonly after: number;
  readonly step: string;
  readonly kind: string;
  readonly sentence: string;
  /** no key yet: the columns of the key do not exist here. gone: it was there before, and this step let it go. */
  readonly state: "there" | "absent" | "gone" | "no key yet";
  /** Rows with that key here, at most {@link MOST}. */
  readonly rows: Page;
  /** Columns that the step wrote, and those it looked at. */
  readonly written: readonly string[];
  readonly read: readonly string[];
  /** Why it is gone, when it is. */
  readonly because?: string;
  /** Rows of the other strand that it was joined with. */
  readonly joined?: { readonly strand: string; readonly rows: Page };
}

const MOST = 6;
const NO_ROWS: Page = { columns: [], rows: [] };

/**
 * Follows the rows with one key through the main strand: what they are at every step, where they were dropped, and what
 * they were joined with.
 * @param key values of the key columns as text, in their order
 */
export async function followRow(
  plan: CheckedPlan,
  warehouse: Warehouse,
  key: readonly string[],
  runTime: string,
): Promise<readonly FollowedPlace[]> {
  const { main } = plan;
  const names = plan.file.roles.key;
  const places: FollowedPlace[] = [];
  const builder = new PlanBuilder(plan);
  let before: { readonly rows: Page; readonly state: FollowedPlace["state"] } = {
    rows: NO_ROWS,
    state: "no key yet",
  };
  for (let after = 0; after <= main.steps.length; after += 1) {
    const checked = main.steps[after - 1];
    const columns = checked ? checked.shape.output : main.start;
    const known = names.every((name) => columns.has(name));
    const rows = known
      ? await rowsWith(
          await relationAt(plan, warehouse, main.name, after, runTime),
          names,
          key,
          columns,
          warehouse,
          runTime,
        )
      : NO_ROWS;
    const lacking = before.state === "there" ? "gone" : "absent";
    const looked = rows.rows.length > 0 ? "there" : lacking;
    const state = known ? looked : "no key yet";
    const joined =
      checked && before.rows.rows.length > 0
        ? await joinedRows(checked, builder, before.rows, warehouse, runTime)
        : undefined;
    places.push({
      after,
      state,
      rows,
      step: checked?.step.name ?? `start of ${main.name}`,
      kind: checked?.step.kind ?? "",
      sentence: checked?.step.sentence ?? "rows of the table",
      written: checked?.shape.writes ?? [],
      read: checked?.shape.reads ?? [],
      ...(state === "gone" && checked ? { because: reason(checked, before.rows) } : {}),
      ...(joined ? { joined } : {}),
    });
    if (state === "gone") break;
    before = { rows, state };
  }
  return places;
}

async function rowsWith(
  relation: Relation,
  names: readonly string[],
  key: readonly string[],
  columns: ColumnSet,
  warehouse: Warehouse,
  runTime: string,
): Promise<Page> {
  const same = names.map((name, index) =>
    binary(column(name), "=", cast(text(key[index] ?? ""), columns.get(name)?.type ?? "text")),
  );
  return rowsAt(filter(relation, allOf(same)), warehouse, runTime);
}

const rowsAt = (relation: Relation, warehouse: Warehouse, runTime: string): Promise<Page> =>
  warehouse.ask(pageQuestion(relation, "rows with a key", { rows: MOST }), {
    runTime,
    milliseconds: 20_000,
  });

async function joinedRows(
  { step }: CheckedStep,
  builder: PlanBuilder,
  before: Page,
  warehouse: Warehouse,
  runTime: string,
): Promise<FollowedPlace["joined"]> {
  if (step.off || (step.kind !== "join" && step.kind !== "join_latest")) return undefined;
  const settings = step.settings as { readonly with: string; readonly on: Readonly<Record<string, string>> };
  const row = before.rows[0];
  const pairs = joinedPairs(settings.on).map((pair) => ({
    there: pair.right,
    value: row?.[before.columns.indexOf(pair.left)] ?? null,
  }));
  const other = builder.strand(settings.with);
  if (pairs.some((pair) => pair.value === null))
    return { strand: settings.with, rows: { columns: outputColumns(other), rows: [] } };
  // Compared as text: the preview has the values as text, whatever their types.
  const same = pairs.map((pair) => binary(cast(column(pair.there), "text"), "=", text(pair.value ?? "")));
  return {
    strand: settings.with,
    rows: await rowsAt(filter(other, allOf(same)), warehouse, runTime),
  };
}

/** Why a step let a row go, in words, with the values it looked at. */
function reason({ step, shape }: CheckedStep, before: Page): string {
  const row = before.rows[0] ?? [];
  const looked = shape.reads
    .map((name) => `${name} is ${row[before.columns.indexOf(name)] ?? "missing"}`)
    .join(", ");
  switch (step.kind) {
    case "filter":
      return `The condition is not true: ${step.sentence.replace(/^rows where /, "")}. Here ${looked}.`;
    case "deduplicate":
      return `Another row with the same values was kept. Here ${looked}.`;
    case "sample":
      return "The hash of its columns is outside the sample.";
    case "limit":
      return "It is after the last row that is kept.";
    case "join":
    case "join_latest":
      return `It has no match in the other strand, and such rows are dropped. Here ${looked}.`;
    default:
      return `The step "${step.name}" dropped it.${looked ? ` Here ${looked}.` : ""}`;
  }
}
