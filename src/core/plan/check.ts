import { truth, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { canonicalJson, sha256 } from "../hash";
import { suggestion } from "../nearest";
import { standardRows } from "../pipeline/defaults";
import type { ParsedPipeline } from "../pipeline/parse";
import type { PipelineFile } from "../pipeline/schema";
import { parseTableName } from "../pipeline/table-name";
import { failure, located, problem, success, type Problem, type Result } from "../problem";
import { CORE_VERSION } from "../version";
import { cronMistake } from "../schedule/cron";
import { isZone } from "../zone";
import { findTable, type Catalog } from "./catalog";
import { otherAnswer, withNamedAnswer } from "./answer-sides";
import { checkRoles, checkTarget, requireCondition } from "./check-roles";
import { checkCandidates } from "./check-candidates";
import { checkDeliveries } from "./check-deliveries";
import { checkHoldout } from "./check-holdout";
import { checkedExpression, checkStrand, Expressions, orderStrands } from "./check-strands";
import type { CheckedPlan, CheckedStrand, SourceUse } from "./plan";
import { sourceColumn } from "./stand-in";

/** What a look at a pipeline gave: everything that is wrong, and as much of a plan as there is. */
export interface Survey {
  readonly problems: readonly Problem[];
  /** Good for drawing, and for reading rows where no problem stands before; undefined without a main strand. */
  readonly plan: CheckedPlan | undefined;
}

/** What a plan is for: to score, the tables that judged a training need not be there any more. */
export type PlanPurpose = "training" | "scoring";

/**
 * Checks a pipeline against the catalog: names, types, strands, roles, holdout, deliveries and schedules.
 * Reports everything it finds at once, each problem at its line. Reads no rows.
 */
export function checkPipeline(
  parsed: ParsedPipeline,
  catalog: Catalog,
  purpose: PlanPurpose = "training",
): Result<CheckedPlan> {
  const { plan, problems } = surveyPipeline(parsed, catalog, purpose);
  return plan && !problems.some((problem) => problem.severity === "error")
    ? success(plan)
    : failure(...problems);
}

/** The same look, for a draft that may be wrong in places: the plan comes with the problems, not instead of them. */
export function surveyPipeline(
  parsed: ParsedPipeline,
  catalog: Catalog,
  purpose: PlanPurpose = "training",
): Survey {
  const { file } = parsed;
  const problems: Problem[] = [...parsed.problems];
  const report = (found: Problem): void => void problems.push(parsed.place(found));
  const expressions = new Expressions();
  reportDuplicates(file, report);
  const done = new Map<string, CheckedStrand>();
  for (const strand of orderStrands(file, report))
    done.set(strand.name, checkStrand(strand, { file, catalog, expressions, report, done }));
  const main = done.get(file.rows.from);
  if (!main) {
    report(
      problem(
        "unknown_strand",
        `There is no strand "${file.rows.from}".`,
        suggestion(
          file.rows.from,
          file.strands.map((strand) => strand.name),
          "strand",
        ),
        { path: ["rows", "from"] },
      ),
    );
    return { problems, plan: undefined };
  }
  const broken = problems.some((problem) => problem.severity === "error");
  // A column that is missing only because a step above is wrong would be a second report of one mistake.
  const reportLate = (found: Problem): void => {
    if (!broken || found.code !== "unknown_column") report(found);
  };
  const expression = (text: string, path: readonly (string | number)[]) =>
    checkedExpression(expressions, text, main.output, { aggregates: "forbidden" }, (found) =>
      reportLate(located(found, { path })),
    );
  const condition = (text: string, path: readonly (string | number)[]) =>
    requireCondition(expression(text, path), path, report);
  // Without its column a target is reported itself; what goes without saying about it would be a second report.
  const standard = main.output.has(file.roles.target.column)
    ? undefined
    : standardRows(file.roles.target.column);
  const rowsFor = (which: "train" | "score"): Expression =>
    file.rows[which] === standard?.[which] ? truth(true) : condition(file.rows[which], ["rows", which]);
  const { roles, features } = checkRoles(file, main, [...done.values()], reportLate);
  const { positive: target, named } = checkTarget(file, main.output, reportLate);
  const asked = rowsFor("train");
  const train = withNamedAnswer(asked, named);
  const score = rowsFor("score");
  file.checks.forEach((check, index) => condition(check.expect, ["checks", index, "expect"]));
  const division = checkHoldout({
    file,
    main,
    strands: [...done.values()],
    catalog,
    purpose,
    condition,
    report,
  });
  checkDeliveries({ file, main: main.output, broken, expressions, report });
  checkSchedules(file, catalog, report);
  checkCandidates(file, main, report);
  const firstLearning = main.steps.findIndex((step) => step.step.learns);
  const learnsFrom = firstLearning < 0 ? main.steps.length : firstLearning;
  const membership = [train, score, division.held, division.closed].filter((found) => found !== undefined);
  if (!broken) checkMembership(file, main, learnsFrom, membership.flatMap(columnsOf), report);
  const strands = [...done.values()];
  const sources = usedSources(strands, catalog);
  return {
    problems,
    plan: {
      file,
      strands,
      main,
      features,
      roles,
      target,
      train,
      ...(named
        ? { sides: { named, asked, leftOut: otherAnswer(asked, file.roles.target.column, named) } }
        : {}),
      score,
      division,
      learnsFrom,
      sources,
      warnings: problems,
      hash: planHash(file, sources),
      expression: expressions.get,
    },
  };
}

function reportDuplicates(file: PipelineFile, report: (found: Problem) => void): void {
  const lists = {
    strands: file.strands,
    candidates: file.candidates,
    delivery: file.delivery,
    schedules: file.schedules,
    checks: file.checks,
  };
  for (const [part, list] of Object.entries(lists)) {
    const seen = new Set<string>();
    list.forEach(({ name }, index) => {
      if (seen.has(name))
        report(
          problem("duplicate_name", `Two ${part} are named "${name}".`, "Rename one of them.", {
            path: [part, index, "name"],
          }),
        );
      seen.add(name);
    });
  }
}

/** Which rows are training rows (or to be scored) must be decidable before anything is learned, from the very same values. */
function checkMembership(
  file: PipelineFile,
  main: CheckedStrand,
  learnsFrom: number,
  columns: readonly string[],
  report: (found: Problem) => void,
): void {
  const step = main.steps[learnsFrom];
  if (!step) return;
  const deciding = new Set([...file.roles.key, ...columns]);
  if (file.holdout.by === "stratified" || file.folds?.by === "stratified")
    deciding.add(file.roles.target.column);
  if ((file.holdout.by === "group" || file.folds?.by === "group") && file.roles.group !== undefined)
    deciding.add(file.roles.group);
  const byTime =
    file.holdout.by === "time" || file.folds?.by === "time" || file.holdout.blind?.from !== undefined;
  if (byTime && file.roles.time !== undefined) deciding.add(file.roles.time);
  const index = file.strands.findIndex((strand) => strand.name === main.name);
  const later = main.steps.slice(learnsFrom).findIndex((step) => step.step.regroups);
  if (later >= 0) {
    const regrouping = main.steps[learnsFrom + later]!.step;
    report(
      problem(
        "learned_too_early",
        `"${step.step.name}" learns from training rows, but "${regrouping.name}" changes the rows afterwards.`,
        `Move "${step.step.name}" after "${regrouping.name}".`,
        { path: ["strands", index, "steps", learnsFrom, "do"], step: step.step.name },
      ),
    );
  }
  for (const name of deciding) {
    const final = main.output.get(name);
    const there = step.input.get(name);
    if (final && there?.identity !== final.identity) {
      report(
        problem(
          "learned_too_early",
          `"${step.step.name}" learns from training rows, but "${name}", which determines those rows, is created or changed in a later step.`,
          `Move "${step.step.name}" after the step that creates "${name}".`,
          { path: ["strands", index, "steps", learnsFrom, "do"], step: step.step.name },
        ),
      );
    }
  }
}

function checkSchedules(file: PipelineFile, catalog: Catalog, report: (found: Problem) => void): void {
  file.schedules.forEach((schedule, index) => {
    const path = ["schedules", index];
    const { cron, after, arrival } = schedule;
    if ([cron, after, arrival].filter((text) => text !== undefined).length !== 1)
      report(
        problem(
          "when_unclear",
          `"${schedule.name}" needs exactly one of cron, after and arrival.`,
          "Set exactly one of them.",
          { path },
        ),
      );
    if (after === file.name)
      report(
        problem(
          "after_itself",
          `"${schedule.name}" would run after its own pipeline, in an endless loop.`,
          "Name another pipeline.",
          { path: [...path, "after"] },
        ),
      );
    const source = arrival === undefined ? undefined : parseTableName(arrival);
    if (arrival !== undefined && (!source || !findTable(catalog, source)))
      report(
        problem(
          "unknown_table",
          `There is no table "${arrival}".`,
          suggestion(
            arrival,
            catalog.tables.map((table) => `${table.schema}.${table.table}`),
            "table",
          ),
          { path: [...path, "arrival"] },
        ),
      );
    const mistake = cron === undefined ? undefined : cronMistake(cron);
    if (mistake !== undefined)
      report(
        problem("bad_cron", mistake, 'For example "15 2 * * *": every day at 02:15.', {
          path: [...path, "cron"],
        }),
      );
    if (!isZone(schedule.zone))
      report(
        problem(
          "bad_zone",
          `"${schedule.zone}" is not a time zone.`,
          "Use a name such as UTC or Europe/Lisbon.",
          { path: [...path, "zone"] },
        ),
      );
    if (schedule.run === "score" && file.delivery.length === 0)
      report(
        problem("no_delivery", "A scoring schedule needs a delivery.", "Add one under delivery.", {
          path: [...path, "run"],
        }),
      );
    if (
      schedule.delivery !== undefined &&
      !file.delivery.some((delivery) => delivery.name === schedule.delivery)
    ) {
      report(
        problem(
          "unknown_delivery",
          `There is no delivery "${schedule.delivery}".`,
          suggestion(
            schedule.delivery,
            file.delivery.map((delivery) => delivery.name),
            "delivery",
          ),
          { path: [...path, "delivery"] },
        ),
      );
    }
  });
}

/** The source columns that the final rows descend from, filters and joins included. */
function usedSources(strands: readonly CheckedStrand[], catalog: Catalog): readonly SourceUse[] {
  const uses = new Map<string, SourceUse>();
  for (const strand of strands) {
    if (strand.from.kind !== "table") continue;
    const table = findTable(catalog, strand.from.source);
    if (!table) continue;
    const read = new Set<string>(
      strand.steps
        .flatMap((step) => [
          ...step.shape.reads,
          ...[...step.shape.output.values()].map((state) => state.name),
        ])
        .map((name) => sourceColumn(strand, name)),
    );
    const columns = table.columns.filter((column) => strand.steps.length === 0 || read.has(column.name));
    const key = canonicalJson([table.schema, table.table]);
    const earlier = uses.get(key)?.columns ?? [];
    const names = new Set([...earlier, ...columns].map((found) => found.name));
    uses.set(key, {
      schema: table.schema,
      table: table.table,
      columns: table.columns
        .filter((column) => names.has(column.name))
        .map(({ name, declared, type }) => ({ name, declared, type })),
    });
  }
  return [...uses.values()];
}

/** Equal hash and equal source rows mean an equal result: over what decides it, not over names and remarks. */
function planHash(file: PipelineFile, sources: readonly SourceUse[]): string {
  const { strands, roles, rows, holdout, folds, candidates, checks } = file;
  const bare = strands.map(({ name, from, steps }) => ({
    name,
    from,
    steps: steps.map((step) => Object.fromEntries(Object.entries(step).filter(([key]) => key !== "note"))),
  }));
  return sha256(
    canonicalJson({
      core: CORE_VERSION,
      strands: bare,
      roles,
      rows,
      holdout,
      folds,
      candidates,
      checks,
      sources,
    }),
  );
}
