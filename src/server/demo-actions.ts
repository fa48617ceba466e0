"use server";
import { problem, success } from "@/core/problem";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { demoSetup, setDemoSetup } from "@/store/settings";
import { action, refuse, type Outcome } from "./answer/action";
import { appContext, isOwnWarehouse } from "./context";

/**
 * Asks for the demo in an installation that is still empty; the command that started it makes the tables
 * and pipelines.
 */
export const wishDemo = action([], async (): Promise<Outcome> => {
  const context = await appContext();
  const { db } = context.store;
  const setup = await demoSetup(db);
  if (setup && setup.stage !== "failed") return success(undefined);
  if ((await listEveryPipeline(db)).length > 0 || !isOwnWarehouse(context))
    return refuse(
      problem(
        "not_empty",
        "The demo has a clock of its own and can only be created in an empty installation.",
        "Start it separately: RAVLEN_HOME=FOLDER ./ravlen demo --port 4390.",
      ),
    );
  await setDemoSetup(db, { stage: "wished" });
  return success(undefined);
});
