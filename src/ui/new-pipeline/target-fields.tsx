import { useEffect, useRef } from "react";
import { ALGORITHM_NAMES, factsOf } from "@/core/learn/algorithms";
import { readableLearner } from "@/core/pipeline/defaults";
import { TARGET_WORDS } from "@/core/learn/task";
import { describeRest, type Sides } from "../target/target-values";
import { ValueList } from "../target/value-list";
import { FieldRow } from "./field-row";
import type { NewPipelineForm } from "./use-new-pipeline";
import { RegionFields } from "./region-fields";
import { FROM_EXPRESSION, FROM_REGIONS } from "./choices";
import { derivedColumn } from "./proposal";
import { Select } from "../select/select";
import { labelledOptions } from "../select/options";

const WIDE = "field w-full max-w-xl";

/** What is predicted: the column, its kind, the value that means yes, and the learner that is tried first. */
export function TargetFields({
  state,
  isFirst,
}: {
  readonly state: NewPipelineForm;
  /** Whether this is the first field to fill in: the table is known already. */
  readonly isFirst: boolean;
}) {
  const { choices, change, outline, proposal, findings, profile, profileFailure } = state;
  const select = useRef<HTMLButtonElement>(null);
  const ready = outline !== undefined;
  useEffect(() => {
    if (isFirst && ready) select.current?.focus();
  }, [isFirst, ready]);
  const looked = profile !== undefined || profileFailure !== undefined;
  const { kind, sides, pipeline } = proposal;
  const learners = ALGORITHM_NAMES.filter(
    (name) => name !== "base_rate" && factsOf(name).targets.includes(kind),
  );
  const learner = pipeline.learner ?? readableLearner(kind);
  return (
    <>
      <FieldRow
        name="Target"
        hint="the column to predict; missing where not known yet"
        finding={findings.target}
      >
        {(trouble) => (
          <Select
            buttonRef={select}
            label="Target"
            describedBy={trouble}
            className={WIDE}
            value={choices.target}
            disabled={!outline}
            onChange={(target) => change({ target })}
            options={[
              { value: FROM_EXPRESSION, label: `an expression, as a new column “${derivedColumn(outline)}”` },
              { value: FROM_REGIONS, label: "labels from regions drawn over two columns" },
              ...(outline?.columns ?? []).map(({ name, declared }) => ({
                value: name,
                label: `${name} (${declared})`,
              })),
            ]}
          />
        )}
      </FieldRow>
      {choices.target === FROM_EXPRESSION && (
        <FieldRow name="Expression" finding={findings.expression}>
          {(trouble) => (
            <input
              aria-label="Expression"
              aria-describedby={trouble}
              className={`${WIDE} font-mono`}
              value={choices.expression}
              onChange={(event) => change({ expression: event.target.value })}
            />
          )}
        </FieldRow>
      )}
      {choices.target === FROM_REGIONS && <RegionFields state={state} />}
      {looked && (
        <FieldRow name="Target type" finding={findings.kind}>
          {() => (
            <Select
              label="Target type"
              className={WIDE}
              value={kind ?? ""}
              options={labelledOptions(TARGET_WORDS)}
              onChange={(chosen) => change({ kind: chosen })}
            />
          )}
        </FieldRow>
      )}
      {sides && <SideFields state={state} sides={sides} />}
      {looked && (
        <FieldRow name="Algorithm" hint="more can be added later" finding={undefined}>
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
function SideFields({ state, sides }: { readonly state: NewPipelineForm; readonly sides: Sides }) {
  const { change, findings } = state;
  const profile = state.profile?.profile;
  const values = profile?.topValues ?? [];
  const known = values.map(({ value }) => value);
  return (
    <>
      <FieldRow name="Positive" hint="the values to find" finding={findings.positive}>
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
      <FieldRow name="Negative" hint="list them to exclude all others" finding={findings.negative}>
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
