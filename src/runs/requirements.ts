import { PlanBuilder, type LearnedValues } from "@/core/plan/build";
import type { CheckedPlan } from "@/core/plan/plan";
import { brokenProfile, type Breach } from "@/core/plan/contract";
import { readsWhatIsAbsent } from "@/core/plan/on-demand";
import { breachRelation, featureInputs, profileRelation, readProfile } from "@/core/plan/row-profile";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { problem, ProblemError, type Problem } from "@/core/problem";
import { rowsQuestion, someRowsQuestion } from "@/core/questions/rows";
import type { Relation } from "@/core/relation/relation";
import type { ModelRow } from "@/store/models";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { RunRecorder } from "./recorder";

interface RequirementWork {
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
  readonly plan: CheckedPlan;
}

/** Rows as a person reads examples: values of a row parted by strokes, rows by semicolons. */
const examplesOf = (rows: readonly Readonly<Record<string, unknown>>[]): string =>
  rows
    .map((row) =>
      Object.values(row)
        .map((value) => (value instanceof Date ? value.toISOString() : String(value ?? "missing")))
        .join(" / "),
    )
    .join("; ");

/** The problem of a breach, with a few of the rows that it is about. */
export async function withExamples(
  session: WarehouseSession,
  breach: Breach,
  rows: Relation | undefined,
): Promise<Problem> {
  if (!rows) return breach.problem;
  const found = await session.ask(someRowsQuestion(rows, 3, `examples of "${breach.column ?? ""}"`));
  return found.length === 0
    ? breach.problem
    : {
        ...breach.problem,
        message: `${breach.problem.message.replace(/\.$/, "")}, for example ${examplesOf(found)}.`,
      };
}

/** Stops the run where a join would multiply rows, or a check does not hold; warns where the file says so. */
export async function checkRequirements(
  work: RequirementWork,
  learned: LearnedValues = {},
  after = false,
): Promise<void> {
  const { plan, recorder, session } = work;
  const { standIn } = plan;
  const requirements = new PlanBuilder(plan)
    .requirements(learned, after ? { from: plan.learnsFrom + 1, to: plan.main.steps.length } : undefined)
    // What rows on demand need not have cannot be looked at.
    .filter((requirement) => !standIn || !readsWhatIsAbsent(requirement.rows, standIn));
  if (requirements.length === 0) return;
  await recorder.doing(after ? "check the prepared rows" : "check joins and sources", async () => {
    for (const requirement of requirements) {
      const purpose = `must be empty for "${requirement.step}"`;
      const rows = await session.ask(someRowsQuestion(requirement.rows, 5, purpose));
      if (rows.length === 0) continue;
      const found = problem(
        requirement.code,
        `${requirement.message}, for example ${examplesOf(rows)}.`,
        requirement.hint,
        {
          step: requirement.step,
        },
      );
      if (requirement.otherwise !== "warn") throw new ProblemError(found);
      await recorder.warn([{ ...found, severity: "warning" }]);
    }
    return {
      value: undefined,
      detail: `${requirements.length} condition${requirements.length === 1 ? "" : "s"} analysed`,
    };
  });
}

/** Holds the rows to score against the training rows: stops the run, or warns, where the contract of the delivery is broken. */
export async function checkRows(
  work: RequirementWork,
  model: ModelRow,
  delivery: Delivery,
  onDemand: boolean,
): Promise<void> {
  const { plan, recorder, session } = work;
  const { profile } = model.data;
  await recorder.doing("check the contract: rows", async () => {
    const shares = profileRelation(plan, model.learned, model, { condition: plan.score }, profile);
    const purpose = "shares of missing, unseen and unusual values";
    const [row] = await session.ask(rowsQuestion(shares, purpose));
    const now = readProfile(row ?? {}, featureInputs(plan));
    const breaches = brokenProfile(profile, now, delivery.contract, onDemand);
    const broken = await Promise.all(
      breaches.map((breach) =>
        withExamples(session, breach, breachRelation(plan, model.learned, model, breach, profile)),
      ),
    );
    const stops = delivery.contract.otherwise === "stop" || breaches.some((breach) => breach.stops);
    if (broken.length > 0 && stops) throw new ProblemError(...broken);
    await recorder.warn(broken.map((found) => ({ ...found, severity: "warning" })));
    const within = now.rows === 0 ? "no rows to score" : "within bounds";
    return {
      value: undefined,
      rows: now.rows,
      detail: broken.length > 0 ? `${broken.length} violations, delivered anyway` : within,
    };
  });
}
