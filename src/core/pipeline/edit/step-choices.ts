import type { Choice } from "../../learn/search/space";
import { failure, problem, success, type Result } from "../../problem";
import type { CheckedPlan } from "../../plan/plan";
import { changeStep } from "./steps";

/** The file with settings of steps as a search chose them; choices for the learner are left alone. */
export function withStepChoices(text: string, plan: CheckedPlan, choices: readonly Choice[]): Result<string> {
  const strand = plan.file.strands.findIndex((strand) => strand.name === plan.main.name);
  let current = text;
  for (const { step, setting, value } of choices) {
    if (step === undefined) continue;
    const position = plan.main.steps.findIndex((oneStep) => oneStep.step.name === step);
    if (position < 0)
      return failure(
        problem("unknown_step", `There is no step "${step}" in the strand "${plan.main.name}".`),
      );
    const changed = changeStep(current, { strand, position }, [{ path: [setting], value }]);
    if (!changed.ok) return changed;
    current = changed.value;
  }
  return success(current);
}
