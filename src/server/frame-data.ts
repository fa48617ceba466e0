import { listEveryPipeline } from "@/store/pipeline-lives";
import { listRuns } from "@/store/runs";
import { clockOffset, demoState } from "@/store/settings";
import { readCatalog } from "@/warehouse/catalog";
import { appContext } from "./context";

const STAGES = ["brief", "braid", "train", "compare", "deliver", "history"] as const;

export type FrameData = Awaited<ReturnType<typeof readFrame>>;

const minute = (moment: Date): string => moment.toISOString().slice(0, 16).replace("T", " ");

/** Shown around a page that says itself what is wrong. */
const BARE: FrameData = { destinations: [], running: { runs: [], waiting: 0, away: true }, clock: null };

/** What the frame around every page shows: places to go, what runs now, the demo's clock. Bare while the database is away. */
export const frameData = (): Promise<FrameData> => readFrame().catch(() => BARE);

async function readFrame() {
  const context = await appContext();
  const { db } = context.store;
  const [demo, every, recent, offset, catalog] = await Promise.all([
    demoState(db),
    listEveryPipeline(db),
    listRuns(db, { limit: 30 }),
    clockOffset(db),
    readCatalog(context.warehouse).catch(() => ({ tables: [] })),
  ]);
  const pipelines = every.filter(({ deletedAt }) => deletedAt === null);
  const names = new Map(every.map((each) => [each.id, each.name]));
  const active = recent.filter((run) => run.state === "running");
  return {
    destinations: [
      ...[
        ["Today", "/"],
        ["Tables", "/tables"],
        ["Pipelines", "/pipelines"],
        ["Models", "/models"],
        ["Runs", "/runs"],
        ["Health of the server", "/health"],
      ].map(([name, href]) => ({ group: "Areas", name: name!, href: href! })),
      ...pipelines.flatMap((pipeline) =>
        STAGES.map((stage) => ({
          group: "Pipelines",
          name: `${pipeline.name}: ${stage}`,
          href: `/pipelines/${encodeURIComponent(pipeline.name)}/${stage}`,
        })),
      ),
      ...catalog.tables.map((table) => ({
        group: "Tables",
        name: `${table.schema}.${table.table}`,
        href: `/tables/${encodeURIComponent(table.schema)}/${encodeURIComponent(table.table)}`,
      })),
    ],
    running: {
      runs: active.map((run) => ({
        id: run.id,
        label: `${run.kind === "train" ? "training" : "scoring"} ${names.get(run.pipelineId) ?? ""}`,
      })),
      waiting: recent.filter((run) => run.state === "queued").length,
      away: false,
    },
    clock:
      offset === 0
        ? null
        : {
            text: `${minute(new Date(Date.now() + offset))} UTC`,
            passing: demo?.wish ? minute(demo.wish) : null,
            movable: demo !== undefined,
          },
  };
}
