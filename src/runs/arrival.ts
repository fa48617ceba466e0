import { parseTableName } from "@/core/pipeline/table-name";
import { failure, problem, success, type Result } from "@/core/problem";
import { noteArriving, type ScheduleRow } from "@/store/pipelines";
import type { ArrivalWatch } from "@/store/schema";
import type { Context } from "./context";

const MINUTE = 60_000;
/** How long reading the table of a schedule may take. */
const READ_MILLISECONDS = 60_000;
/** A table that takes long to read is read again only after this many times as long. */
const REST = 20;

/** What has arrived in a schedule's table, and is whole. */
export interface Arrival {
  /** What the table holds now; undefined when nothing has arrived, or more of it may follow. */
  readonly content: string | undefined;
}

/**
 * Looks whether rows have arrived in the table that a schedule waits for. Counters of writes, which move also without a commit, only
 * say when the table has to be read; what counts is what it holds for a reader of what was committed. What has arrived is whole when
 * that stays the same for as long as the file says.
 * @param now on the application's clock
 * Problems: arrival_unreadable.
 */
export async function lookForArrival(
  context: Context,
  schedule: ScheduleRow,
  now: Date,
): Promise<Result<Arrival>> {
  const found = await readArrivals(context, schedule, now);
  if (!found.ok) return found;
  const { content, changedAt } = found.value.watch;
  // What the first look finds was there before.
  const arrived = schedule.arriving !== null && content !== schedule.seen;
  const quiet = now.getTime() - new Date(changedAt).getTime() >= schedule.quietFor * MINUTE;
  return success({ content: arrived && quiet && found.value.current ? content : undefined });
}

interface Reading {
  readonly watch: ArrivalWatch;
  /** Whether nothing may have been written since. */
  readonly current: boolean;
}

/** What the table is like, read again if its counters have moved. */
async function readArrivals(
  { store, warehouse }: Context,
  schedule: ScheduleRow,
  now: Date,
): Promise<Result<Reading>> {
  const { arriving: before } = schedule;
  const name = schedule.arrival ?? "";
  const table = parseTableName(name);
  const unreadable = (why: string) =>
    failure(
      problem(
        "arrival_unreadable",
        `It waits for rows in ${name}, which ${why}.`,
        "Choose a table that the reader role can read, or run the schedule at set times.",
        { path: ["schedules"] },
      ),
    );
  if (!table) return unreadable("is not a table name");
  const { catalog } = warehouse;
  try {
    const counters = await catalog.changeMarker(table, READ_MILLISECONDS);
    if (counters === "") return unreadable("does not exist, is a view, or is on another server");
    if (before?.counters === counters) return success({ watch: before, current: true });
    if (before && rests(before)) return success({ watch: before, current: false });
    const begun = Date.now();
    const content = await catalog.contentMarker(table, READ_MILLISECONDS);
    const changed = content !== before?.content;
    const watch: ArrivalWatch = {
      counters,
      content,
      changedAt: changed ? now.toISOString() : before.changedAt,
      readAt: new Date().toISOString(),
      milliseconds: Date.now() - begun,
    };
    await noteArriving(store.db, schedule, watch);
    return success({ watch, current: true });
  } catch (error) {
    return unreadable(`could not be checked: ${error instanceof Error ? error.message : String(error)}`);
  }
}

/** Whether a table was read too short a time ago to be read again. */
export const rests = ({ readAt, milliseconds }: ArrivalWatch): boolean =>
  Date.now() - new Date(readAt).getTime() < REST * milliseconds;
