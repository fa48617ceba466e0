import { useEffect, useRef } from "react";
import { ALGORITHM_NAMES, factsOf } from "@/core/learn/algorithms";
import { readableLearner } from "@/core/pipeline/defaults";
import type { TargetKind } from "@/core/pipeline/schema";
import { describeRest, type Sides } from "../answer/answer-values";
import { ValueList } from "../answer/value-list";
import { FieldRow } from "./field-row";
import type { BeginningState } from "./use-beginning";
import { DrawnFields } from "./drawn-fields";
import { FROM_EXPRESSION, FROM_REGIONS } from "./wishes";
import { Select } from "../select/select";
import { labelledOptions } from "../select/options";

const KINDS: Readonly<Record<TargetKind, string>> = {
  binary: "yes or no",
  number: "a number",
  classes: "one of several classes",
};
const WIDE = "field w-full max-w-xl";

/** What is predicted: the column, its kind, the value that means yes, and the learner that is tried first. */
export function AnswerFields({
  state,
  isFirst,
}: {
  readonly state: BeginningState;
  /** Whether this is what is to be said first: the table is known already. */
  readonly isFirst: boolean;
}) {
  const { wishes, change, outline, beginning, problems, answer, answerFailure } = state;
  const select = useRef<HTMLButtonElement>(null);
  const ready = outline !== undefined;
  useEffect(() => {
    if (isFirst && ready) select.current?.focus();
  }, [isFirst, ready]);
  const looked = answer !== undefined || answerFailure !== undefined;
  const { kind, sides, pipeline } = beginning;
  const learners = ALGORITHM_NAMES.filter(
    (name) => name !== "base_rate" && factsOf(name).targets.includes(kind),
  );
  const learner = pipeline.learner ?? readableLearner(kind);
  return (
    <>
      <FieldRow
        name="Target"
        hint="the column to predict; missing where not known yet"
        problem={problems.get("answer")}
      >
        {(trouble) => (
          <Select
            buttonRef={select}
            label="Target"
            describedBy={trouble}
            className={WIDE}
            value={wishes.answer}
            disabled={!outline}
            onChange={(answer) => change({ answer })}
            options={[
              { value: FROM_EXPRESSION, label: "an expression, as a new column “answer”" },
              { value: FROM_REGIONS, label: "labels from regions drawn over two columns" },
              ...(outline?.columns ?? []).map(({ name, declared }) => ({
                value: name,
                label: `${name} (${declared})`,
              })),
            ]}
          />
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
      {wishes.answer === FROM_REGIONS && <DrawnFields state={state} />}
      {looked && (
        <FieldRow name="It is" problem={problems.get("kind")}>
          {() => (
            <Select
              label="It is"
              className={WIDE}
              value={kind ?? ""}
              options={labelledOptions(KINDS)}
              onChange={(chosen) => change({ kind: chosen })}
            />
          )}
        </FieldRow>
      )}
      {sides && <SideFields state={state} sides={sides} />}
      {looked && (
        <FieldRow name="Algorithm" hint="more can be added later" problem={undefined}>
          {() => (
            <>
              <Select
                label="Algorithm"
                className={WIDE}
                value={learner}
                options={learners.map((name) => ({ value: name, label: factsOf(name).title }))}
                onChange={(chosen) => change({ learner: chosen })}
              />
              <p className="mt-0.5 max-w-xl text-caption text-faded">{factsOf(learner).about}</p>
            </>
          )}
        </FieldRow>
      )}
    </>
  );
}

/** Which values mean yes and which no, and what that leaves out. */
function SideFields({ state, sides }: { readonly state: BeginningState; readonly sides: Sides }) {
  const { change, problems, answer } = state;
  const profile = answer?.profile;
  const values = profile?.topValues ?? [];
  const known = values.map(({ value }) => value);
  return (
    <>
      <FieldRow name="Positive" hint="the values to find" problem={problems.get("positive")}>
        {(trouble) => (
          <ValueList
            name="Positive values"
            side="positive"
            values={sides.positive}
            {...{ trouble, known }}
            onChange={(positive) => change({ positive })}
          />
        )}
      </FieldRow>
      <FieldRow name="Negative" hint="list them to exclude all others" problem={problems.get("negative")}>
        {(trouble) => (
          <>
            <ValueList
              name="Negative values"
              side="negative"
              values={sides.negative}
              none="every other value"
              {...{ trouble, known }}
              onChange={(negative) => change({ negative })}
            />
            {profile && sides.negative.length > 0 && (
              <p className="text-caption text-faded">
                {describeRest(sides, values, profile.rows - profile.missing)}
              </p>
            )}
          </>
        )}
      </FieldRow>
    </>
  );
}
