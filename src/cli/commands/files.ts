import { readFileSync } from "node:fs";
import type { Command } from "commander";
import { engine } from "@/warehouse/engines";
import { describePlan } from "@/core/plan/statements";
import { pipelineJsonSchema } from "@/core/pipeline/schema";
import { learnerReference } from "@/core/learn/reference";
import { stepReference } from "@/core/steps/reference";
import { obstacleWords } from "@/core/plan/obstacles";
import type { CheckedPlan } from "@/core/plan/plan";
import type { Problem } from "@/core/problem";
import { checkText } from "@/runs/check-file";
import type { Context } from "@/runs/context";
import { beforeTraining } from "@/runs/draft/before-training";
import { previewTime } from "@/runs/draft/preview";
import { saveFile } from "@/runs/save-file";
import { layOutSql } from "@/server/sql-layout";
import { print, printProblems } from "../output";
import { withContext } from "./client";

const read = (file: string): string => readFileSync(file, "utf8");

/** What a training of the file would stop at or leave out; said as warnings, since the file itself is good. */
async function rowsAhead(context: Context, plan: CheckedPlan): Promise<readonly Problem[]> {
  const found = await beforeTraining(plan, context.warehouse, previewTime(await context.now()));
  return found.map((obstacle) => ({
    ...obstacle.problem,
    severity: "warning",
    message: obstacleWords(obstacle),
  }));
}

function printedReference({
  learners,
  steps,
}: {
  readonly learners: boolean;
  readonly steps: boolean;
}): string {
  if (learners) return learnerReference();
  return steps ? stepReference() : `${JSON.stringify(pipelineJsonSchema(), null, 2)}\n`;
}

/** check, sql, save and schema: commands about pipeline files. */
export function addFileCommands(program: Command): void {
  program
    .command("schema")
    .option("--steps", "print the reference of steps instead, as Markdown", false)
    .option("--learners", "print the reference of algorithms instead, as Markdown", false)
    .description("print the JSON Schema of pipeline files, for editors")
    .action(
      (options: { steps: boolean; learners: boolean }) =>
        void process.stdout.write(printedReference(options)),
    );

  program
    .command("check")
    .argument("<file>", "pipeline file")
    .option("--json", "print JSON", false)
    .option("--no-rows", "check only the file, not the training rows")
    .description("check a pipeline file against the warehouse, including its training rows")
    .action(async (file: string, options: { json: boolean; rows: boolean }) =>
      withContext(async (context) => {
        const checked = await checkText(read(file), context.warehouse);
        const ahead = checked.ok && options.rows ? await rowsAhead(context, checked.value) : [];
        const problems = checked.ok ? [...checked.value.warnings, ...ahead] : checked.problems;
        if (!options.json && checked.ok) {
          printProblems(false, problems, file);
          print(
            false,
            undefined,
            () =>
              `${file}: valid. ${checked.value.main.steps.length} steps in "${checked.value.main.name}", ${checked.value.features.length} features.`,
          );
        } else printProblems(options.json, problems, file);
      }),
    );

  program
    .command("sql")
    .argument("<file>", "pipeline file")
    .option("--json", "print JSON", false)
    .option("--at <time>", "logical time of the run, ISO 8601")
    .description("print the SQL compiled from a pipeline file")
    .action(async (file: string, options: { json: boolean; at?: string }) =>
      withContext(async (context) => {
        const checked = await checkText(read(file), context.warehouse);
        if (!checked.ok) return printProblems(options.json, checked.problems, file);
        const runTime = options.at ? new Date(options.at) : await context.now();
        const statements = describePlan(checked.value, engine.dialect, runTime.toISOString()).map(
          (statement) => ({
            ...statement,
            sql: layOutSql(statement.sql),
          }),
        );
        print(options.json, statements, () =>
          statements.map((statement) => `-- ${statement.purpose}\n${statement.sql};\n`).join("\n"),
        );
      }),
    );

  program
    .command("save")
    .argument("<file>", "pipeline file")
    .option("--json", "print JSON", false)
    .option("--note <text>", "reason for this version")
    .description("save a pipeline file as a new version")
    .action(async (file: string, options: { json: boolean; note?: string }) =>
      withContext(async (context) => {
        const text = read(file);
        const outcome = await saveFile(context, text, { note: options.note });
        if (!outcome.ok) return printProblems(options.json, outcome.problems, file);
        const saved = outcome.value;
        const result = { pipeline: saved.pipeline.name, version: saved.version.number, fresh: saved.fresh };
        print(options.json, result, () =>
          saved.fresh
            ? `Saved ${result.pipeline} as version ${result.version}.`
            : `${result.pipeline} is unchanged; its newest version is ${result.version}.`,
        );
      }),
    );
}
