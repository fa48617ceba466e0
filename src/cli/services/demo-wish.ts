import { errorText } from "@/runs/failure";
import { demoSetup, demoState, setDemoSetup } from "@/store/settings";
import { firstRun, keepDemo, prepareDemo } from "./demo";
import { say, type Running } from "./installation";

const LOOK_MILLISECONDS = 1000;
/** Days before the demo's present for which predictions are caught up. */
const HISTORY_DAYS = 90;
const SCALE = 1;

/** Makes the demo in an installation that was started without it. */
async function makeDemo(running: Running): Promise<void> {
  const { db } = running.context.store;
  try {
    await setDemoSetup(db, { stage: "tables" });
    await prepareDemo(running, SCALE, false);
    await setDemoSetup(db, { stage: "training" });
    await firstRun(running, HISTORY_DAYS);
    keepDemo(running);
  } catch (error) {
    say(`the demo was not created: ${errorText(error)}`);
    await setDemoSetup(db, { stage: "failed", problem: errorText(error) });
  }
}

/** Before anything runs: sets the clock of a demo that was made here before. */
export async function resumeDemo(running: Running): Promise<void> {
  const { db } = running.context.store;
  const [setup, state] = [await demoSetup(db), await demoState(db)];
  if (!setup || !state) return;
  await prepareDemo(running, state.scale, false);
  if (setup.stage === "tables") await setDemoSetup(db, { stage: "training" });
}

/** Waits for somebody to wish for the demo on an empty page, and goes on with one that was made here before. */
export function watchDemoWish(running: Running): void {
  const { db } = running.context.store;
  let busy = false;
  const look = async (): Promise<void> => {
    const setup = await demoSetup(db);
    if (setup === undefined || setup.stage === "failed") return;
    clearInterval(timer);
    if (setup.stage === "wished" || setup.stage === "tables") await makeDemo(running);
    else keepDemo(running);
  };
  const timer = setInterval(() => {
    if (busy) return;
    busy = true;
    void look()
      .catch((error: unknown) => say(`the demo was not checked: ${errorText(error)}`))
      .finally(() => (busy = false));
  }, LOOK_MILLISECONDS);
}
