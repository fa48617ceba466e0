import { formatNumber } from "@/core/format/numbers";
import type { PipelineFile } from "@/core/pipeline/schema";
import { stepKind } from "@/core/steps";
import type { ModelRow } from "@/store/models";

/** What one step, or the learner itself, learned in a training. */
export interface LearnedPart {
  readonly name: string;
  readonly value: unknown;
}

/** What a version learned, step by step, and its coefficients when it has any. @param file the one it was trained from, for the names of its steps */
export function learnedParts(model: ModelRow, file: PipelineFile | undefined): readonly LearnedPart[] {
  const steps = file?.strands.find((strand) => strand.name === file.rows.from)?.steps ?? [];
  const parts = Object.entries(model.learned).map(([position, value]): LearnedPart => {
    const step = steps[Number(position)];
    return {
      name: (step && stepKind(String(step["do"]))?.bind(step).name) ?? `step ${Number(position) + 1}`,
      value,
    };
  });
  const fitted = model.model;
  if (!("coefficients" in fitted)) return parts;
  const coefficients = fitted.coefficients.map((coefficient) => [
    coefficient.class === undefined ? coefficient.term : `${coefficient.term}, ${coefficient.class}`,
    `${formatNumber(coefficient.estimate)}${coefficient.error === null ? "" : ` ± ${formatNumber(coefficient.error)}`}`,
  ]);
  return [
    ...parts,
    { name: "coefficients ± standard error", value: Object.fromEntries(coefficients) as unknown },
  ];
}
