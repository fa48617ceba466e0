import type { CheckedPlan } from "@/core/plan/plan";
import type { Candidate } from "@/core/pipeline/schema";
import { withShare } from "@/core/plan/share";
import { problem, ProblemError, unwrap } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import type { RunOptions } from "@/store/schema";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "../context";
import type { RunRecorder } from "../recorder";
import { scratchTable, type ScratchPurpose } from "../scratch";

/** What every part of a training run works with. */
export interface Workshop {
  readonly context: Context;
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
  readonly plan: CheckedPlan;
  /** A scratch table of this run. */
  readonly scratch: (purpose: ScratchPurpose, which?: string) => TableReference;
  /** A hash of what the sources hold, once that is noted. Nothing is kept for later attempts before. */
  readonly holds?: string;
}

export function openWorkshop(
  context: Context,
  recorder: RunRecorder,
  session: WarehouseSession,
  plan: CheckedPlan,
): Workshop {
  const { run } = recorder;
  return {
    context,
    recorder,
    session,
    plan,
    scratch: (purpose, which) => scratchTable(context.warehouse, purpose, run.id, run.attempt, which),
  };
}

/** The candidate that a run was told to train; the first when it was told nothing. */
export function pickCandidate(plan: CheckedPlan, wanted: string | undefined): Candidate {
  const found =
    wanted === undefined
      ? plan.file.candidates[0]
      : plan.file.candidates.find((candidate) => candidate.name === wanted);
  if (!found)
    throw new ProblemError(
      problem(
        "unknown_candidate",
        `There is no candidate "${wanted}".`,
        `Available: ${plan.file.candidates.map((candidate) => candidate.name).join(", ")}.`,
      ),
    );
  return found;
}

/** The plan that a run was told to try: without some features, or over a share of the rows. */
export const trialPlan = (plan: CheckedPlan, { without = [], share = 1 }: RunOptions): CheckedPlan =>
  unwrap(withShare(withoutFeatures(plan, without), share));

/** The same plan without some features, for a trial that shows what they are worth. */
export function withoutFeatures(plan: CheckedPlan, without: readonly string[]): CheckedPlan {
  if (without.length === 0) return plan;
  const features = plan.features.filter((feature) => !without.includes(feature.name));
  const missing = without.filter((name) => !plan.features.some((feature) => feature.name === name));
  if (missing.length > 0)
    throw new ProblemError(
      problem(
        "unknown_feature",
        `There is no feature "${missing[0]}" to exclude.`,
        `Features are: ${plan.features.map((feature) => feature.name).join(", ")}.`,
      ),
    );
  if (features.length === 0)
    throw new ProblemError(problem("no_features", "No features remain.", "Exclude fewer."));
  return { ...plan, features };
}
