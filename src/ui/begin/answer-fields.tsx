import { ALGORITHM_NAMES, factsOf, type Algorithm } from "@/core/learn/algorithms";
import { readableLearner } from "@/core/pipeline/defaults";
import type { TargetKind } from "@/core/pipeline/schema";
import { FieldRow } from "./field-row";
import type { BeginningState } from "./use-beginning";
import { FROM_EXPRESSION } from "./wishes";

const KINDS: Readonly<Record<TargetKind, string>> = {
  binary: "yes or no",
  number: "a number",
  classes: "one of several classes",
};
const WIDE = "field w-full max-w-xl";

/** What is predicted: the column, its kind, the value that means yes, and the learner that is tried first. */
export function AnswerFields({ state }: { readonly state: BeginningState }) {
  const { wishes, change, outline, beginning, problems, answer, answerFailure } = state;
  const looked = answer !== undefined || answerFailure !== undefined;
  const { kind, needsPositive, positive, pipeline } = beginning;
  const learners = ALGORITHM_NAMES.filter(
    (name) => name !== "base_rate" && factsOf(name).targets.includes(kind),
  );
  const learner = pipeline.learner ?? readableLearner(kind);
  const values = answer?.profile.topValues ?? [];
  return (
    <>
      <FieldRow
        name="Answer"
        hint="what is predicted; missing where it is not known yet"
        problem={problems.get("answer")}
      >
        {(trouble) => (
          <select
            aria-label="Answer"
            aria-describedby={trouble}
            className={WIDE}
            value={wishes.answer}
            disabled={!outline}
            onChange={(event) => change({ answer: event.target.value })}
          >
            <option value="">choose …</option>
            <option value={FROM_EXPRESSION}>an expression, which gives a new column “answer”</option>
            {outline?.columns.map(({ name, declared }) => (
              <option key={name} value={name}>
                {name} ({declared})
              </option>
            ))}
          </select>
        )}
      </FieldRow>
      {wishes.answer === FROM_EXPRESSION && (
        <FieldRow name="Expression" problem={problems.get("expression")}>
          {(trouble) => (
            <input
              aria-label="Expression"
              aria-describedby={trouble}
              className={`${WIDE} font-mono`}
              value={wishes.expression}
              onChange={(event) => change({ expression: event.target.value })}
            />
          )}
        </FieldRow>
      )}
      {looked && (
        <FieldRow name="It is" problem={problems.get("kind")}>
          {() => (
            <select
              aria-label="It is"
              className={WIDE}
              value={kind}
              onChange={(event) => change({ kind: event.target.value as TargetKind })}
            >
              {Object.entries(KINDS).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </FieldRow>
      )}
      {needsPositive && (
        <FieldRow name="Yes is" hint="the value that is looked for" problem={problems.get("positive")}>
          {(trouble) => (
            <>
              <input
                aria-label="Value that means yes"
                aria-describedby={trouble}
                className={WIDE}
                list="values-of-the-answer"
                value={positive}
                onChange={(event) => change({ positive: event.target.value })}
              />
              <datalist id="values-of-the-answer">
                {values.map(({ value }) => (
                  <option key={value}>{value}</option>
                ))}
              </datalist>
            </>
          )}
        </FieldRow>
      )}
      {looked && (
        <FieldRow name="Learner" hint="others can be tried beside it later" problem={undefined}>
          {() => (
            <>
              <select
                aria-label="Learner"
                className={WIDE}
                value={learner}
                onChange={(event) => change({ learner: event.target.value as Algorithm })}
              >
                {learners.map((name) => (
                  <option key={name} value={name}>
                    {factsOf(name).title}
                  </option>
                ))}
              </select>
              <p className="mt-0.5 max-w-xl text-sm text-faded">{factsOf(learner).about}</p>
            </>
          )}
        </FieldRow>
      )}
    </>
  );
}
