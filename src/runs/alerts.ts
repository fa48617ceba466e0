import { deliveryNamed } from "@/core/pipeline/deliveries";
import { problem } from "@/core/problem";
import { clearAlert, openMatters, raiseAlert } from "@/store/alerts";
import { listSchedules, pipelineById, versionById } from "@/store/pipelines";
import type { RunEnd, RunRow } from "@/store/runs";
import type { Context } from "./context";
import { dueStates, isTimed } from "./due";
import { parseFile } from "./parse-file";

/** Problems that the contract names: the data have changed, not the software. */
const CONTRACT_CODES = new Set([
  "source_gone",
  "source_retyped",
  "contract_missing",
  "contract_unseen",
  "contract_outside",
  "contract_rows",
  "source_not_fresh",
]);

/**
 * What a run is about: runs for the same delivery, or trainings of the same candidate, are about the same, also where the first of
 * them was meant because none was named.
 */
async function matterOf({ store: { db } }: Context, run: RunRow): Promise<string> {
  if (run.backfillId !== null) return `backfill:${run.backfillId}`;
  const version = await versionById(db, run.pipelineVersionId);
  const parsed = version && (await parseFile(version.text));
  const file = parsed?.ok ? parsed.value.file : undefined;
  const named =
    run.kind === "score"
      ? (run.options.delivery ?? (file && deliveryNamed(file.delivery, undefined)?.name))
      : (run.options.candidate ?? file?.candidates[0]?.name);
  return `${run.kind}:${run.pipelineId}:${named ?? ""}`;
}

/** Raises an alert for a run that failed, and clears it when the same work has been done. A cancelled run says nothing. */
export async function noteEnd(context: Context, run: RunRow, end: RunEnd): Promise<void> {
  const { db } = context.store;
  // Whoever scores a table on demand sits and waits for it.
  if (end.state === "cancelled" || run.options.onDemand) return;
  const matter = await matterOf(context, run);
  if (end.state === "done") {
    await clearAlert(db, matter, end.outcome ?? "a later run succeeded", run.runTime);
    return;
  }
  const pipeline = await pipelineById(db, run.pipelineId);
  const problems = end.problems ?? [];
  const contract = problems.some((problem) => CONTRACT_CODES.has(problem.code));
  const work = `${run.kind === "train" ? "training" : "scoring"} ${pipeline?.name ?? ""}`;
  await raiseAlert(db, {
    matter,
    kind: contract ? "contract" : "failed",
    pipelineId: run.pipelineId,
    runId: run.id,
    runTime: run.runTime,
    problems,
    title: contract
      ? `The data that ${work} reads have changed`
      : `${work[0]!.toUpperCase()}${work.slice(1)}${run.options.delivery === undefined ? "" : ` for ${run.options.delivery}`} failed`,
  });
}

const MINUTE = 60_000;

/**
 * Looks for schedules whose last time has passed by more than they may be late, without a run that is done; and clears what has
 * been caught up. Times that were dealt with otherwise (skipped, or before the schedule was there) are not owed.
 */
export async function watchLateness(context: Context): Promise<void> {
  const { db } = context.store;
  const now = await context.now();
  const late = new Set<string>();
  const told = new Set(await openMatters(db, "late"));
  const timed = (await listSchedules(db)).filter(isTimed).filter(({ paused }) => !paused);
  const states = await dueStates(context, timed, now);
  for (const [index, schedule] of timed.entries()) {
    const matter = `late:${schedule.id}`;
    const { slot, owed, run: begun } = states[index]!;
    // A failed run has an alert of its own; here it matters only that nobody has begun, or that it takes too long.
    if (now.getTime() - slot.getTime() < schedule.lateAfter * MINUTE || !owed) continue;
    late.add(matter);
    if (told.has(matter)) continue;
    const pipeline = await pipelineById(db, schedule.pipelineId);
    await raiseAlert(db, {
      matter,
      kind: "late",
      pipelineId: schedule.pipelineId,
      ...(begun ? { runId: begun.id } : {}),
      title: `“${schedule.name}” of ${pipeline?.name ?? ""} is late`,
      problems: [
        problem(
          "late",
          `The run due at ${slot.toISOString().slice(0, 16).replace("T", " ")} UTC is not done${begun ? "; its run has not ended" : ", and no run has started"}.`,
          begun
            ? "Check what the run waits for."
            : "Check that a worker is running; ./ravlen start starts one.",
        ),
      ],
    });
  }
  for (const matter of told) if (!late.has(matter)) await clearAlert(db, matter, "it was caught up");
}
