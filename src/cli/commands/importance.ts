import type { Command } from "commander";
import { METRICS } from "@/core/evaluate/metrics";
import { formatNumber } from "@/core/format/numbers";
import { explainAll } from "@/runs/judging/importance";
import { modelById } from "@/store/models";
import { columnsOfText, print } from "../output";
import { withContext } from "./client";
import { versionId } from "./evaluate";

interface Options {
  readonly all: boolean;
  readonly minutes: string;
  readonly json: boolean;
}

/** The time that a person grants, in seconds. */
function secondsOf(minutes: string): number {
  const seconds = Number(minutes) * 60;
  if (!(seconds > 0)) throw new Error(`"${minutes}" is not a number of minutes above 0 (--minutes).`);
  return seconds;
}

/** importance: how much each feature of a version matters. */
export function addImportanceCommand(program: Command): void {
  program
    .command("importance")
    .argument("<name>", "pipeline")
    .argument("<version>", "version number")
    .option("--all", "measure all features of the version first, and save the result", false)
    .option("--minutes <number>", "with --all: time limit", "10")
    .option("--json", "print JSON", false)
    .description("feature importance of a version, most important first")
    .action(async (name: string, version: string, options: Options) =>
      withContext(async (context) => {
        const id = await versionId(context, name, version);
        if (options.all) await explainAll(context, id, secondsOf(options.minutes));
        const { judgement } = (await modelById(context.store.db, id))!;
        if (!judgement)
          throw new Error("This version was trained before importances were stored. Retrain it.");
        const { importance, importanceOf } = judgement;
        const { metric, rows, columns = importance.length, training } = importanceOf;
        print(options.json, { metric, rows, features: columns, importance }, () =>
          [
            columnsOfText([
              ["feature", "loss of metric", "least", "most"],
              ...importance.map((found) => [
                found.column,
                ...[found.worse, found.least, found.most].map((value) => formatNumber(value)),
              ]),
            ]),
            `How much worse ${METRICS[metric].title} gets when a feature is shuffled among ${formatNumber(rows)} ${training ? "training" : "holdout"} rows, in three rounds.`,
            ...(importance.length < columns
              ? [
                  `${formatNumber(importance.length)} of ${formatNumber(columns)} features, those that change predictions most; --all measures the others${options.all ? ", with more --minutes" : ""}.`,
                ]
              : []),
          ].join("\n"),
        );
      }),
    );
}
