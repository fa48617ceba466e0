import { readFileSync } from "node:fs";
import { openContext, readInstance, type Context } from "@/runs/context";
import { saveFile } from "@/runs/save-file";
import { putInService, retire, takeOutOfService } from "@/runs/service";
import { modelById } from "@/store/models";
import { pipelineById } from "@/store/pipelines";

/** What a person does to a version, or to a file, by name. */
const ACTS: Readonly<Record<string, (context: Context, argument: string) => Promise<unknown>>> = {
  serve: (context, id) => putInService(context, Number(id), {}),
  retire: (context, id) => retire(context, Number(id)),
  save: (context, file) => saveFile(context, readFileSync(file, "utf8")),
  withdraw: async (context, id) => {
    const model = (await modelById(context.store.db, Number(id)))!;
    return takeOutOfService(context, (await pipelineById(context.store.db, model.pipelineId))!, {});
  },
};

/** A process that does one thing as the web server does it, for tests that kill it in the middle. */
async function main(): Promise<void> {
  const [, , act = "", argument = ""] = process.argv;
  await ACTS[act]!(await openContext(readInstance()!), argument);
  process.exit(0);
}

void main();
