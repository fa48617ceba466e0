import { formatCount, formatNumber } from "@/core/format/numbers";
import { writeTableName } from "@/core/pipeline/table-name";
import type { Delivery } from "@/core/pipeline/operating-schema";
import type { CheckedPlan } from "@/core/plan/plan";
import { ProblemError } from "@/core/problem";
import type { DeliveryRun, LandedRows } from "@/warehouse/port/landing";
import type { Move, NewerBy } from "@/warehouse/move";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { RunRecorder } from "./recorder";

/** What landing rows works with. */
export interface LandingWork {
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
}

/** How many rows an earlier attempt of the same run has landed; undefined where none has. */
export async function landedEarlier(
  { recorder, session }: LandingWork,
  delivery: DeliveryRun,
): Promise<number | undefined> {
  return recorder.doing("check the ledger", async () => {
    const rows = await session.landing.landed(delivery);
    return {
      value: rows,
      detail: rows === undefined ? "not landed yet" : "landed by an earlier attempt",
    };
  });
}

/** Rows that were staged, and those of them that have landed. */
export interface CheckedLanding {
  readonly staged: number;
  /** Rows that were left out since they could not be predicted. */
  readonly unanswered: number;
  readonly landed: LandedRows;
}

/**
 * Checks staged rows, makes the tables that are not there, and moves the rows into them, in one transaction with the ledger's entry.
 * @param how.comment what a table is, as it is said in the warehouse
 * @param how.leavesOut whether rows that could not be predicted are left out; else they stop the delivery
 */
export async function checkAndLand(
  { recorder, session }: LandingWork,
  move: Move,
  delivery: DeliveryRun,
  how: { readonly of: Delivery["of"]; readonly comment: string; readonly leavesOut: boolean },
): Promise<CheckedLanding> {
  const { stage, key, tables } = move;
  const { of, comment } = how;
  const unanswered = how.leavesOut ? await leaveOut(recorder, session, move) : 0;
  const staged = await recorder.doing("check the staged rows", async () => {
    const rows = await session.landing.checkStage(stage, key, of);
    let enforced = true;
    for (const target of tables)
      enforced = (await session.landing.prepare(target, move, comment)) && enforced;
    const repeated = enforced ? undefined : await session.landing.repeatedKeys(stage, key);
    if (repeated) throw new ProblemError(repeated);
    return { value: rows, rows };
  });
  const moving =
    of === "features" ? "move them into the table of features" : "move them into the prediction table";
  const landed = await recorder.doing(moving, async () => {
    recorder.stopIfAsked();
    const value = await session.landing.land(move, delivery);
    return {
      value,
      rows: value.rows,
      detail: tables
        .map(
          (target, index) =>
            `${writeTableName(target)}${tables.length > 1 ? ` ${formatNumber(value.byTable[index] ?? 0)}` : ""}`,
        )
        .join(", "),
    };
  });
  return { staged, unanswered, landed };
}

/** Leaves out rows that could not be predicted, and says so. @returns how many */
async function leaveOut(
  recorder: RunRecorder,
  session: WarehouseSession,
  { stage, key }: Move,
): Promise<number> {
  return recorder.doing("exclude rows that cannot be predicted", async () => {
    const { rows, examples } = await session.landing.leaveOutUnanswered(stage, key);
    if (rows > 0)
      await recorder.say(
        "warning",
        `${formatCount(rows, "row")} cannot be predicted, because a required number is missing: ${key.join(", ")} ${examples.join("; ")}${rows > examples.length ? " and others" : ""}.`,
      );
    return { value: rows, detail: rows === 0 ? "every row has a prediction" : formatCount(rows, "row") };
  });
}

/** The column by which a delivery tells new rows from those that have landed, where it does so. */
export function newerByOf(plan: CheckedPlan, { rows }: Delivery): NewerBy | undefined {
  if (typeof rows !== "object") return undefined;
  const type = plan.main.output.get(rows.newer_by)?.type;
  return type === undefined ? undefined : { column: rows.newer_by, type };
}
