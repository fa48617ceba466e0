import { formatNumber } from "@/core/format/numbers";
import { writeFileSync } from "node:fs";
import type { Command } from "commander";
import { formatFigure, noteSentences } from "@/core/evaluate/figure-notes";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import { FEW_SEGMENTS, MOST_SEGMENTS } from "@/core/questions/judged/segments";
import { descriptionOf } from "@/runs/judging/describe";
import { descriptionPage } from "@/runs/judging/description-page";
import { openBlindPart } from "@/runs/judging/blind";
import { compareVersions } from "@/runs/judging/compare";
import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import { segmentsOf } from "@/runs/judging/segments";
import type { Context } from "@/runs/context";
import { listModels, modelById } from "@/store/models";
import { findPipeline } from "@/store/pipelines";
import { columnsOfText, print } from "../output";
import { withContext } from "./client";

/** The id of a version, by its number within a pipeline. */
export async function versionId(context: Context, name: string, version: string): Promise<number> {
  const pipeline = await findPipeline(context.store.db, name);
  if (!pipeline) throw new Error(`There is no pipeline "${name}".`);
  const found = (await listModels(context.store.db, pipeline.id)).find(
    (model) => String(model.number) === version,
  );
  if (!found) throw new Error(`"${name}" has no version ${version}.`);
  return found.id;
}

const judgedVersion = async (context: Context, name: string, version: string): Promise<JudgedVersion> =>
  openJudged(context, await versionId(context, name, version));

const between = (interval: readonly [number, number] | undefined): string =>
  interval ? `${formatNumber(interval[0])} to ${formatNumber(interval[1])}` : "";

/** judge, compare, describe and blind. */
export function addEvaluateCommands(program: Command): void {
  program
    .command("describe")
    .argument("<name>", "pipeline")
    .argument("<version>", "version number")
    .option("--to <file>", "file to write, .md or .html; Markdown is printed if omitted")
    .description("model description: purpose, data, metrics, features, limits and users")
    .action(async (name: string, version: string, options: { to?: string }) =>
      withContext(async (context) => {
        const { name: title, markdown } = await descriptionOf(
          context,
          await versionId(context, name, version),
        );
        if (options.to === undefined) return void process.stdout.write(markdown);
        writeFileSync(
          options.to,
          options.to.endsWith(".html") ? await descriptionPage(title, markdown) : markdown,
        );
        process.stdout.write(`Wrote ${options.to}.\n`);
      }),
    );

  program
    .command("evaluate")
    .alias("judge")
    .argument("<name>", "pipeline")
    .argument("<version>", "version number")
    .option("--by <column>", "metrics by the values of a column")
    .option("--all", "with --by: all segments, not only the largest", false)
    .option("--json", "print JSON", false)
    .description("metrics of a version with intervals, and findings of the leakage guard")
    .action(async (name: string, version: string, options: { by?: string; all: boolean; json: boolean }) =>
      withContext(async (context) => {
        const judged = await judgedVersion(context, name, version);
        const names = metricsFor(judged.task.kind);
        if (options.by !== undefined) {
          const { segments, all } = await segmentsOf(
            context.warehouse,
            judged,
            options.by,
            options.all ? MOST_SEGMENTS : FEW_SEGMENTS,
          );
          const left = all - segments.length;
          return print(options.json, segments, () =>
            [
              columnsOfText([
                [options.by!, "rows", ...names.map((name) => METRICS[name].title)],
                ...segments.map((segment) => [
                  segment.label,
                  String(segment.rows),
                  ...names.map(
                    (metric) =>
                      `${formatFigure(metric, segment.figures[metric])}${segment.worse.includes(metric) ? " !" : ""}`,
                  ),
                ]),
              ]),
              ...(left > 0
                ? [`${formatNumber(left)} of ${formatNumber(all)} segments are not shown; --all shows them.`]
                : []),
              "! significantly worse than on all rows, relative to the segment's own base rate or spread",
            ].join("\n"),
          );
        }
        const { judgement, metrics } = judged.model;
        const notes = judgement
          ? [
              ...noteSentences(judged.task, judgement),
              ...(judgement.noIntervals ? [`No intervals: ${judgement.noIntervals}`] : []),
            ]
          : [];
        const { unweighted } = judgement ?? {};
        return print(
          options.json,
          {
            figures: metrics,
            ...(judgement?.unweighted ? { unweighted: judgement.unweighted } : {}),
            notes,
            intervals: judgement?.intervals ?? {},
            base: judgement?.base ?? {},
            folds: judgement?.folds ?? [],
            importance: judgement?.importance ?? [],
            findings: judgement?.findings ?? [],
            blind: judged.model.blind,
          },
          () =>
            [
              columnsOfText([
                [
                  "figure",
                  judgement?.insideFolds ? "cross-validation" : "holdout",
                  ...(unweighted ? ["unweighted"] : []),
                  "95 % interval",
                  "base rate",
                ],
                ...names.map((name) => [
                  METRICS[name].title,
                  formatFigure(name, metrics[name]),
                  ...(unweighted ? [formatFigure(name, unweighted[name])] : []),
                  between(judgement?.intervals[name]),
                  formatFigure(name, judgement?.base[name]),
                ]),
              ]),
              ...notes,
              ...(judgement?.findings ?? []).map((finding) => `! ${finding.message} ${finding.hint ?? ""}`),
            ].join("\n"),
        );
      }),
    );

  program
    .command("compare")
    .argument("<name>", "pipeline")
    .argument("<first>", "version number")
    .argument("<second>", "version number")
    .option("--json", "print JSON", false)
    .description("compare two versions on common holdout rows")
    .action(async (name: string, first: string, second: string, options: { json: boolean }) =>
      withContext(async (context) => {
        const [one, other] = [
          await judgedVersion(context, name, first),
          await judgedVersion(context, name, second),
        ];
        const found = await compareVersions(context.warehouse, one, other);
        print(
          options.json,
          found,
          () =>
            columnsOfText([
              ["figure", `version ${first}`, `version ${second}`, "95 % interval of the difference"],
              ...metricsFor(one.task.kind).map((metric) => [
                METRICS[metric].title,
                formatFigure(metric, found.first[metric]),
                formatFigure(metric, found.second[metric]),
                between(found.differences[metric]),
              ]),
            ]) + (found.noIntervals === undefined ? "" : `\nThere are no intervals: ${found.noIntervals}`),
        );
      }),
    );

  program
    .command("blind")
    .argument("<name>", "pipeline")
    .argument("<version>", "version number")
    .option("--json", "print JSON", false)
    .description("open the blind holdout of a version; can be done once and is recorded")
    .action(async (name: string, version: string, options: { json: boolean }) =>
      withContext(async (context) => {
        const { model } = await judgedVersion(context, name, version);
        await openBlindPart(context, model.id);
        const look = (await modelById(context.store.db, model.id))!.blind!;
        print(
          options.json,
          look,
          () =>
            `Opened ${look.openedAt}: ${look.rows} rows. ${Object.entries(look.figures)
              .map(([metric, value]) => `${metric} ${formatFigure(metric as MetricName, value)}`)
              .join(", ")}`,
        );
      }),
    );
}
