import { DEMO_PIPELINES } from "../../demo/pipelines";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { listRuns } from "@/store/runs";
import { clockOffset, demoState } from "@/store/settings";
import { appContext } from "./context";

export type FrameData = Awaited<ReturnType<typeof readFrame>>;

const minute = (moment: Date): string => moment.toISOString().slice(0, 16).replace("T", " ");

/** Shown around a page that says itself what is wrong. */
const BARE: FrameData = { running: { runs: [], waiting: 0, away: true }, clock: null, guide: null };

/** What the frame around every page shows: what runs now, the demo's clock. Bare while the database is away. */
export const frameData = (): Promise<FrameData> => readFrame().catch(() => BARE);

async function readFrame() {
  const { db } = (await appContext()).store;
  const [demo, every, recent, offset] = await Promise.all([
    demoState(db),
    listEveryPipeline(db),
    listRuns(db, { limit: 30 }),
    clockOffset(db),
  ]);
  const main = demo && every.find(({ name, deletedAt }) => name === DEMO_PIPELINES[0] && deletedAt === null);
  const names = new Map(every.map((pipeline) => [pipeline.id, pipeline.name]));
  const active = recent.filter((run) => run.state === "running");
  return {
    running: {
      runs: active.map((run) => ({
        id: run.id,
        label: `${run.kind === "train" ? "training" : "scoring"} ${names.get(run.pipelineId) ?? ""}`,
      })),
      waiting: recent.filter((run) => run.state === "queued").length,
      away: false,
    },
    guide: main ? { pipeline: main.name, model: main.inService } : null,
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
