import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import { readTruth } from "@/core/evaluate/truth";
import { rowCountQuestion } from "@/core/questions/row-count";
import { answeredQuestion } from "@/core/questions/truth";
import { formatNumber } from "@/core/format/numbers";
import { findTable } from "@/core/plan/catalog";
import { answerNames, type OnDemand } from "@/core/plan/on-demand";
import type { CheckedPlan } from "@/core/plan/plan";
import { parseTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { table, type TableReference } from "@/core/relation/relation";
import type { ModelRow } from "@/store/models";
import type { AnsweredRows } from "@/store/schema";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "./context";
import { fillOnDemand, openOnDemand, type FilledPlan } from "./on-demand-plan";
import type { RunRecorder } from "./recorder";

/** The plan over the rows that were chosen. Throws problems: unknown_table, and those of {@link fillOnDemand}. */
export async function planOnDemand(
  context: Context,
  recorder: RunRecorder,
  wanted: { readonly model: ModelRow; readonly text: string; readonly onDemand: OnDemand },
): Promise<FilledPlan> {
  const { model, text, onDemand } = wanted;
  const name = parseTableName(onDemand.table);
  const given = name && findTable(await context.warehouse.catalog.read(), name);
  if (!given)
    throw new ProblemError(
      problem("unknown_table", `The table ${onDemand.table} no longer exists.`, "Choose another."),
    );
  const filled = unwrap(fillOnDemand(await openOnDemand(context, model, onDemand, text), given));
  if (filled.unread) await recorder.warn([filled.unread]);
  return filled;
}

/** What of a table chosen on demand got no prediction, in words. */
export async function leftOutBySteps(
  session: WarehouseSession,
  name: string,
  scored: number,
): Promise<string> {
  const source = parseTableName(name);
  const given = source
    ? await session.ask(rowCountQuestion(table(source, []), "count the rows to score"))
    : scored;
  return scored < given
    ? `; steps dropped ${formatNumber(given - scored)} of ${formatNumber(given)} rows`
    : "";
}

/** How the predictions of a table turned out whose rows have their answers. */
export async function measureAnswers(
  session: WarehouseSession,
  stage: TableReference,
  plan: CheckedPlan,
): Promise<{ readonly value: AnsweredRows; readonly detail: string }> {
  const { kind } = plan.file.roles.target;
  const sums = await session.ask(answeredQuestion(stage, answerNames(plan).answer, kind));
  const { answered, figures } = readTruth(sums, kind);
  const value: AnsweredRows = {
    answered,
    figures,
    ...(typeof figures.accuracy === "number" ? { correct: Math.round(figures.accuracy * answered) } : {}),
  };
  return { value, detail: describeAnswers(value) };
}

/** How predictions turned out, in a line. */
export function describeAnswers({ answered, correct, figures }: AnsweredRows): string {
  if (answered === 0) return "no row has a target";
  const told = (Object.keys(METRICS) as MetricName[]).flatMap((name) =>
    typeof figures[name] === "number" ? [`${METRICS[name].title} ${formatNumber(figures[name])}`] : [],
  );
  const verdict =
    correct === undefined
      ? ""
      : `, ${formatNumber(correct)} right and ${formatNumber(answered - correct)} wrong`;
  return `${formatNumber(answered)} rows with a target${verdict}: ${told.join(", ")}`;
}
