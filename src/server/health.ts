import type { Context } from "@/runs/context";
import { dueStates, isTimed } from "@/runs/due";
import { listPipelines, listSchedules } from "@/store/pipelines";
import { LEASE_SECONDS } from "@/store/runs";
import { listBehind } from "@/store/publications";
import { storeHealth, type StoreHealth } from "@/store/health";
import { isKeptTable } from "@/runs/scratch";
import type { Warehouse } from "@/warehouse/port/warehouse";
import type { MetricFamily } from "./open-metrics";

export interface Health {
  /** What is wrong, in words; nothing when all is well. */
  readonly wrong: readonly string[];
  readonly store: StoreHealth | undefined;
  /** Milliseconds that a trivial question takes; undefined when it is not answered. */
  readonly storeMilliseconds: number | undefined;
  readonly readerMilliseconds: number | undefined;
  readonly writerMilliseconds: number | undefined;
  /** Tables of runs that are left in the scratch schema, holdouts that are kept apart. */
  readonly scratchTables: number | undefined;
}

/** Functions that are just being made are no news. */
const SETTLING_SECONDS = 5;
/** A run that waits longer than this waits for something that does not come. */
const LONGEST_WAIT_SECONDS = 600;

async function timed(work: () => Promise<unknown>): Promise<number | undefined> {
  const started = performance.now();
  return work().then(
    () => performance.now() - started,
    () => undefined,
  );
}

/** How many tables runs have in the scratch schema, without those that are kept with versions. */
async function scratchTables(warehouse: Warehouse): Promise<number> {
  const names = await warehouse.tableNames(warehouse.config.scratchSchema);
  return names.filter((name) => !isKeptTable(name)).length;
}

/** Asks every part whether it is there. Never throws: a part that does not answer is what is wrong. */
export async function readHealth(context: Context): Promise<Health> {
  const { store, warehouse } = context;
  const [storeMilliseconds, readerMilliseconds, writerMilliseconds, found, scratch, behind] =
    await Promise.all([
      timed(() => store.pool.query("SELECT 1")),
      timed(() => warehouse.ping("reader")),
      timed(() => warehouse.ping("writer")),
      storeHealth(store.db).catch(() => undefined),
      scratchTables(warehouse).catch(() => undefined),
      listBehind(store.db).catch(() => []),
    ]);
  const alive = (found?.workers ?? []).filter((worker) => worker.silentSeconds < LEASE_SECONDS);
  return {
    store: found,
    storeMilliseconds,
    readerMilliseconds,
    writerMilliseconds,
    scratchTables: scratch,
    wrong: [
      ...(storeMilliseconds === undefined || !found ? ["The application database is unreachable."] : []),
      ...(readerMilliseconds === undefined ? ["The warehouse does not respond to the reader."] : []),
      ...(writerMilliseconds === undefined ? ["The warehouse does not respond to the writer."] : []),
      ...(found && alive.length === 0
        ? ["No worker is running: runs wait, and schedules do not start."]
        : []),
      ...alive
        .filter((worker) => worker.trouble !== null)
        .map((worker) => `The worker ${worker.name} fails its periodic task: ${worker.trouble ?? ""}`),
      ...(found && found.oldestWaiting > LONGEST_WAIT_SECONDS
        ? [`A run has waited for ${Math.round(found.oldestWaiting / 60)} minutes.`]
        : []),
      ...behind
        .filter((publication) => publication.problem !== null || publication.seconds > SETTLING_SECONDS)
        .map(
          (publication) =>
            `The functions of ${publication.pipeline} may be out of date with its version in service${publication.problem === null ? "" : `: ${publication.problem}`} They are compared every minute.`,
        ),
    ],
  };
}

/** The same as numbers for whoever watches the server, with what deliveries and schedules say. */
export async function metricFamilies(context: Context): Promise<readonly MetricFamily[]> {
  const health = await readHealth(context);
  const now = await context.now();
  const [pipelines, schedules, newest] = await Promise.all([
    listPipelines(context.store.db),
    listSchedules(context.store.db),
    context.warehouse.ledger.newestOfDeliveries(),
  ]);
  const names = new Map(pipelines.map((pipeline) => [pipeline.id, pipeline.name]));
  const answers = [
    ["store", health.storeMilliseconds],
    ["reader", health.readerMilliseconds],
    ["writer", health.writerMilliseconds],
  ] as const;
  const timed = schedules.filter(isTimed).filter(({ paused }) => !paused);
  const states = await dueStates(context, timed, now);
  const due = timed.map((schedule, index) => ({ schedule, ...states[index]! }));
  return [
    {
      name: "ravlen_up",
      help: "1 when nothing is wrong, else 0.",
      samples: [{ value: health.wrong.length === 0 ? 1 : 0 }],
    },
    {
      name: "ravlen_answer_seconds",
      help: "Duration of a trivial database query.",
      samples: answers.map(([part, milliseconds]) => ({
        labels: { part },
        value: milliseconds === undefined ? Number.NaN : milliseconds / 1000,
      })),
    },
    {
      name: "ravlen_worker_silent_seconds",
      help: "Seconds since a worker was last seen.",
      samples: (health.store?.workers ?? []).map((worker) => ({
        labels: { worker: worker.name },
        value: worker.silentSeconds,
      })),
    },
    {
      name: "ravlen_runs",
      help: "Runs on record by pipeline, kind and state.",
      samples: (health.store?.runs ?? []).map(({ pipeline, kind, state, count }) => ({
        labels: { pipeline, kind, state },
        value: count,
      })),
    },
    {
      name: "ravlen_oldest_waiting_seconds",
      help: "Seconds that the oldest waiting run has waited.",
      samples: [{ value: health.store?.oldestWaiting ?? Number.NaN }],
    },
    {
      name: "ravlen_open_alerts",
      help: "Open alerts.",
      samples: ["failed", "contract", "late", "drift", "worse"].map((kind) => ({
        labels: { kind },
        value: health.store?.alerts.find((alert) => alert.kind === kind)?.count ?? 0,
      })),
    },
    {
      name: "ravlen_delivered_rows",
      help: "Rows of the newest landing of a delivery.",
      samples: newest.map((ledger) => ({
        labels: { pipeline: ledger.pipeline, delivery: ledger.delivery },
        value: ledger.rows,
      })),
    },
    {
      name: "ravlen_delivered_age_seconds",
      help: "Age of the newest landing of a delivery, by its logical time.",
      samples: newest.map((ledger) => ({
        labels: { pipeline: ledger.pipeline, delivery: ledger.delivery },
        value: (now.getTime() - ledger.runTime.getTime()) / 1000,
      })),
    },
    {
      name: "ravlen_schedule_owed",
      help: "1 when the last scheduled run is not done.",
      samples: due.map(({ schedule, state }) => ({
        labels: { pipeline: names.get(schedule.pipelineId) ?? "", schedule: schedule.name },
        value: state === "done" || state === "nothing due" ? 0 : 1,
      })),
    },
    {
      name: "ravlen_scratch_tables",
      help: "Tables of runs in the scratch schema.",
      samples: [{ value: health.scratchTables ?? Number.NaN }],
    },
    {
      name: "ravlen_store_bytes",
      help: "Size of the application's own database.",
      samples: [{ value: health.store?.bytes ?? Number.NaN }],
    },
  ];
}
