import { closeContext, openContext, type Context } from "@/runs/context";
import { runningInstance } from "../services/installation";

/** Runs a command against the running installation of this folder. */
export async function withContext(
  work: (context: Context, databaseUrl: string) => Promise<void>,
): Promise<void> {
  const instance = runningInstance();
  if (!instance)
    throw new Error(
      "Ravlen is not running here. Start it with ./ravlen start (or ./ravlen demo) in another terminal.",
    );
  const context = await openContext(instance);
  try {
    await work(context, instance.databaseUrl);
  } finally {
    await closeContext(context);
  }
}
