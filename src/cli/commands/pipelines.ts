import { userInfo } from "node:os";
import type { Command } from "commander";
import { formatCount } from "@/core/format/numbers";
import { unwrap } from "@/core/problem";
import type { Context } from "@/runs/context";
import { copyPipeline } from "@/runs/pipelines/copy";
import { endsWith, removePipeline, type PipelineEnds } from "@/runs/pipelines/remove";
import { renamePipeline } from "@/runs/pipelines/rename";
import { findPipeline, listPipelines, listVersions, type PipelineRow } from "@/store/pipelines";
import { print } from "../output";
import { withContext } from "./client";

/** The pipeline of a name. */
async function pipelineOf({ store: { db } }: Context, name: string): Promise<PipelineRow> {
  const pipeline = await findPipeline(db, name);
  if (pipeline) return pipeline;
  const names = (await listPipelines(db)).map((known) => known.name);
  throw new Error(
    `There is no pipeline "${name}". ${names.length === 0 ? "There is none yet." : `Available: ${names.join(", ")}.`}`,
  );
}

/** What ends with a pipeline, line by line. */
function endLines({
  deliveries,
  schedules,
  functions,
  inService,
  runs,
  waiting,
  versions,
}: PipelineEnds): string[] {
  return [
    ...(inService === null ? [] : [`version ${inService} is taken out of service`]),
    ...deliveries.map(
      ({ name, tables }) => `"${name}" no longer writes to ${tables.join(", ")}; existing rows stay`,
    ),
    ...schedules.map((name) => `the schedule "${name}" ends`),
    ...functions.map((name) => `the function ${name} is dropped`),
    ...(runs > 0 ? [`${formatCount(runs, "run")} waiting or running will be cancelled`] : []),
    ...waiting.map((name) => `${name} waits for its deliveries and will never run`),
    versions === 0
      ? "its runs stay in the lists"
      : `${formatCount(versions, "version")} and its runs stay in the lists`,
  ];
}

/** show, copy, rename and delete: pipelines as a whole. */
export function addPipelineCommands(program: Command): void {
  program
    .command("show")
    .argument("<name>", "pipeline")
    .option("--version <n>", "version of the file; the newest by default")
    .description("print the file of a pipeline")
    .action((name: string, options: { version?: string }) =>
      withContext(async (context) => {
        const versions = await listVersions(context.store.db, (await pipelineOf(context, name)).id);
        const found =
          options.version === undefined
            ? versions[0]
            : versions.find(({ number }) => String(number) === options.version);
        if (!found)
          throw new Error(
            `The file of "${name}" has no version ${options.version ?? ""}; the newest is ${versions[0]?.number ?? 0}.`,
          );
        process.stdout.write(found.text.endsWith("\n") ? found.text : `${found.text}\n`);
      }),
    );

  program
    .command("copy")
    .argument("<name>", "pipeline")
    .argument("<new-name>", "name of the copy")
    .option("--json", "print JSON", false)
    .description("copy a pipeline's steps and candidates; deliveries and schedules are not copied")
    .action((name: string, wanted: string, options: { json: boolean }) =>
      withContext(async (context) => {
        const { version } = unwrap(await copyPipeline(context, await pipelineOf(context, name), wanted));
        print(
          options.json,
          { pipeline: wanted, version: version.number },
          () => `${wanted} is a copy of ${name}.`,
        );
      }),
    );

  program
    .command("rename")
    .argument("<name>", "pipeline")
    .argument("<new-name>", "its new name")
    .option("--json", "print JSON", false)
    .description("rename a pipeline; functions and dependent schedules are updated")
    .action((name: string, wanted: string, options: { json: boolean }) =>
      withContext(async (context) => {
        const version = unwrap(await renamePipeline(context, await pipelineOf(context, name), wanted));
        print(
          options.json,
          { pipeline: wanted, version: version.number },
          () => `${name} is now named ${wanted}.`,
        );
      }),
    );

  program
    .command("delete")
    .argument("<name>", "pipeline")
    .option("--yes", "confirm; without it, the effects are only printed", false)
    .option("--json", "print JSON", false)
    .description("delete a pipeline with its deliveries, schedules and functions; versions and runs are kept")
    .action((name: string, options: { yes: boolean; json: boolean }) =>
      withContext(async (context) => {
        const pipeline = await pipelineOf(context, name);
        const ends = await endsWith(context, pipeline);
        if (options.yes) await removePipeline(context, pipeline, userInfo().username);
        else process.exitCode = 1;
        const said = options.yes ? `${name} is deleted:` : `Effects of deleting ${name}(confirm with --yes):`;
        print(options.json, { pipeline: name, deleted: options.yes, ...ends }, () =>
          [said, ...endLines(ends).map((line) => `  ${line}`)].join("\n"),
        );
      }),
    );
}
