import { formatNumber } from "@/core/format/numbers";
import { userInfo } from "node:os";
import { METRICS, type Figures } from "@/core/evaluate/metrics";
import type { Command } from "commander";
import { describeProblem, unwrap } from "@/core/problem";
import type { Context } from "@/runs/context";
import { openQueue, orderRun, type Order } from "@/runs/queue";
import { putInService, takeOutOfService } from "@/runs/service";
import { listModels, modelById } from "@/store/models";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { findPipeline } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { workerAlive } from "@/store/workers";
import { columnsOfText, print } from "../output";
import { withContext } from "./client";
import { follow } from "./follow";
import { scoreOnDemand, type OnDemandFlags } from "./on-demand";

/** Orders a run and follows it to its end, printing its log. */
async function orderAndFollow(
  context: Context,
  databaseUrl: string,
  order: Order,
  options: { json: boolean; wait: boolean },
): Promise<void> {
  const boss = await openQueue(databaseUrl, "sender", () => undefined);
  try {
    const run = unwrap(await orderRun(context, boss, order));
    if (!options.wait)
      return print(options.json, { run: run.id, state: run.state }, () => `Run ${run.id} is queued.`);
    if (!(await workerAlive(context.store.db)))
      process.stderr.write("No worker is running; the run is waiting.\n");
    const ended = await follow(context, run.id, !options.json);
    if (ended.state !== "done") process.exitCode = 1;
    const model = ended.modelId === null ? undefined : await modelById(context.store.db, ended.modelId);
    print(
      options.json,
      {
        run: ended.id,
        state: ended.state,
        rows: ended.rows,
        outcome: ended.outcome,
        problems: ended.problems,
        ...(model ? { version: model.number, metrics: model.metrics } : {}),
      },
      () =>
        ended.state === "done"
          ? `Done: ${ended.outcome ?? ""}.`
          : `${ended.state}: ${ended.problems.map(describeProblem).join("; ") || (ended.outcome ?? "")}`,
    );
  } finally {
    await boss.stop({ graceful: false, wait: false });
  }
}

/** train, score, runs, models and serve. */
export function addRunCommands(program: Command): void {
  const common = (command: Command): Command =>
    command
      .option("--json", "print JSON", false)
      .option("--no-wait", "queue the run and return")
      .option("--at <time>", "logical time of the run, ISO 8601");
  type Common = { json: boolean; wait: boolean; at?: string };
  const runTime = (options: Common): { runTime?: Date } => {
    if (options.at === undefined) return {};
    const at = new Date(options.at);
    if (Number.isNaN(at.getTime()))
      throw new Error(`"${options.at}" is not a time; write it like 2026-06-30T22:00:00Z.`);
    return { runTime: at };
  };

  common(
    program
      .command("train")
      .argument("<name>", "pipeline")
      .option("--candidate <name>", "candidate of the file; the first by default")
      .option("--without <features>", "features to exclude in this trial, separated by commas")
      .option("--share <share>", "share of the training rows, such as 0.1")
      .option("--put-in-service", "put the new version in service if training succeeds", false),
  )
    .description("train a pipeline's newest version")
    .action(
      async (
        name: string,
        options: Common & { candidate?: string; without?: string; share?: string; putInService: boolean },
      ) =>
        withContext(async (context, url) => {
          const share = options.share === undefined ? undefined : Number(options.share);
          if (share !== undefined && !(share > 0 && share <= 1))
            throw new Error(`"${options.share}" is not a share; use a number above 0 and at most 1.`);
          await orderAndFollow(
            context,
            url,
            {
              kind: "train",
              pipeline: name,
              cause: "command line",
              ...runTime(options),
              options: {
                ...(options.candidate ? { candidate: options.candidate } : {}),
                ...(options.without
                  ? {
                      without: options.without
                        .split(",")
                        .map((part) => part.trim())
                        .filter(Boolean),
                    }
                  : {}),
                ...(share === undefined ? {} : { share }),
              },
            },
            options,
          );
          const pipeline = await findPipeline(context.store.db, name);
          const newest = pipeline && (await listModels(context.store.db, pipeline.id))[0];
          if (options.putInService && pipeline && newest && !process.exitCode)
            await putInService(context, newest.id, {
              by: userInfo().username,
              reason: "train --put-in-service",
            });
        }),
    );

  common(
    program
      .command("score")
      .argument("<name>", "pipeline")
      .option("--delivery <name>", "delivery of the file; the first by default")
      .option("--file <file>", "on demand: score the rows of a file")
      .option("--table <name>", "on demand: score the rows of a table")
      .option("--keep <columns>", "on demand: columns passed through, separated by commas")
      .option("--into <name>", "on demand: the table to create")
      .option("--to <file>", "on demand: write the predictions into a file, .csv, .jsonl or .parquet")
      .option("--rejects <file>", "on demand: write invalid rows of the file here")
      .option(
        "--all-unseen <what>",
        "on demand: stop or warn if all values of a column are unseen; stop by default",
      ),
  )
    .description("score with the version in service and deliver; or score a file or table on demand")
    .action(async (name: string, options: Common & { delivery?: string } & OnDemandFlags) =>
      withContext((context, url) =>
        options.file !== undefined || options.table !== undefined
          ? scoreOnDemand(context, url, name, options)
          : orderAndFollow(
              context,
              url,
              {
                kind: "score",
                pipeline: name,
                cause: "command line",
                ...runTime(options),
                options: options.delivery ? { delivery: options.delivery } : {},
              },
              options,
            ),
      ),
    );

  program
    .command("runs")
    .option("--json", "print JSON", false)
    .option("--limit <n>", "number", "20")
    .description("list runs, newest first")
    .action(async (options: { json: boolean; limit: string }) =>
      withContext(async (context) => {
        const runs = await listRuns(context.store.db, { limit: Math.max(1, Number(options.limit) || 20) });
        const names = new Map(
          (await listEveryPipeline(context.store.db)).map((pipeline) => [pipeline.id, pipeline.name]),
        );
        const rows = runs.map((run) => ({
          run: run.id,
          pipeline: names.get(run.pipelineId) ?? "",
          kind: run.kind,
          state: run.state,
          cause: run.cause,
          runTime: run.runTime,
          rows: run.rows,
          outcome: run.outcome,
          problems: run.problems,
        }));
        print(options.json, rows, () =>
          rows.length === 0
            ? "No runs yet."
            : columnsOfText([
                ["run", "pipeline", "kind", "state", "run time", "rows", "outcome"],
                ...rows.map((row) => [
                  row.run.slice(0, 8),
                  row.pipeline,
                  row.kind,
                  row.state,
                  row.runTime.toISOString().slice(0, 16),
                  String(row.rows ?? ""),
                  row.problems[0]?.message ?? row.outcome ?? "",
                ]),
              ]),
        );
      }),
    );

  program
    .command("models")
    .option("--json", "print JSON", false)
    .option("--pipeline <name>", "only this pipeline")
    .description("list model versions, newest first")
    .action(async (options: { json: boolean; pipeline?: string }) =>
      withContext(async (context) => {
        const pipelines = await listEveryPipeline(context.store.db);
        const only =
          options.pipeline === undefined ? undefined : await findPipeline(context.store.db, options.pipeline);
        if (options.pipeline !== undefined && !only)
          throw new Error(`There is no pipeline "${options.pipeline}".`);
        const models = await listModels(context.store.db, only?.id);
        const rows = models.map((model) => {
          const pipeline = pipelines.find((pipeline) => pipeline.id === model.pipelineId);
          return {
            pipeline: pipeline?.name ?? "",
            version: model.number,
            inService: pipeline?.inService === model.id,
            candidate: model.candidate,
            trained: model.createdAt,
            metrics: model.metrics,
            trainingRows: model.data.trainingRows,
            ...(model.data.leftOut === undefined ? {} : { leftOut: model.data.leftOut }),
            planHash: model.planHash,
            algorithm: model.data.algorithm ?? "logistic_regression",
            settings: model.data.settings ?? {},
            engine: model.engine,
            fitSeconds: model.fitSeconds,
            intervals: model.intervals,
            findings: model.findings ?? [],
            starred: model.starred,
            note: model.note,
          };
        });
        print(options.json, rows, () =>
          rows.length === 0
            ? "No models yet."
            : columnsOfText([
                ["pipeline", "version", "in service", "candidate", "learner", "figures", "rows", "trained"],
                ...rows.map((row) => [
                  row.pipeline,
                  String(row.version),
                  row.inService ? "yes" : "",
                  row.candidate,
                  row.algorithm,
                  headline(row.metrics),
                  String(row.trainingRows),
                  row.trained.toISOString().slice(0, 16),
                ]),
              ]),
        );
      }),
    );

  program
    .command("serve")
    .argument("<name>", "pipeline")
    .argument("<version>", "version number, or none")
    .option("--because <reason>", "stored with the change")
    .option("--json", "print JSON", false)
    .description("put a model version in service, or take it out")
    .action(async (name: string, version: string, options: { because?: string; json: boolean }) =>
      withContext(async (context) => {
        const pipeline = await findPipeline(context.store.db, name);
        if (!pipeline) throw new Error(`There is no pipeline "${name}".`);
        const model =
          version === "none"
            ? undefined
            : (await listModels(context.store.db, pipeline.id)).find(
                (model) => String(model.number) === version,
              );
        if (version !== "none" && !model) throw new Error(`"${name}" has no version ${version}.`);
        const reason = {
          by: userInfo().username,
          ...(options.because === undefined ? {} : { reason: options.because }),
        };
        if (model) await putInService(context, model.id, reason);
        else await takeOutOfService(context, pipeline, reason);
        print(options.json, { pipeline: name, inService: model?.number ?? null }, () =>
          model
            ? `Version ${model.number} of ${name} is in service.`
            : `No version of ${name} is in service.`,
        );
      }),
    );
}

/** The figures that are told in a list: two at the most. */
function headline(figures: Figures): string {
  const names = (["auc", "accuracy", "log_loss", "rmse", "r_squared"] as const).filter(
    (name) => typeof figures[name] === "number",
  );
  return names
    .slice(0, 2)
    .map((name) => `${METRICS[name].title} ${formatNumber(figures[name]!)}`)
    .join(", ");
}
