"use client";
import type { Points } from "@/runs/draft/columns";
import { parseTableName } from "@/core/pipeline/table-name";
import { isNumber } from "@/core/value-type";
import { usePosted } from "../queries/use-posted";
import { RegionDrawing } from "../regions/region-drawing";
import { pointsQuestion } from "./target-question";
import { FieldRow } from "./field-row";
import type { NewPipelineForm } from "./use-new-pipeline";
import type { RegionChoices } from "./choices";
import { entityColumns, orderColumns, orderOf, targetOf } from "./proposal";
import { Select } from "../select/select";

/** A target that is drawn: two columns, the scale of each entity, and regions with their labels. */
export function RegionFields({ state }: { readonly state: NewPipelineForm }) {
  const { choices, change, outline, findings } = state;
  const { drawn } = choices;
  const draw = (changes: Partial<RegionChoices>): void => change({ drawn: { ...drawn, ...changes } });
  if (!outline) return null;
  const numbers = outline.columns.filter(({ type }) => isNumber(type)).map(({ name }) => name);
  const entities = entityColumns(outline);
  return (
    <>
      <FieldRow name="Drawn over" hint="the columns for the x and y axes" finding={findings.drawn}>
        {(trouble) => (
          <div className="flex flex-wrap items-baseline gap-2" aria-describedby={trouble}>
            <Choice label="Horizontal axis" value={drawn.x} names={numbers} onChange={(x) => draw({ x })} />
            <Choice label="Vertical axis" value={drawn.y} names={numbers} onChange={(y) => draw({ y })} />
          </div>
        )}
      </FieldRow>
      {entities.length > 0 && (
        <FieldRow name="Own scale" hint="for entities whose numbers are not comparable" finding={undefined}>
          {() => (
            <div className="flex flex-wrap items-baseline gap-2">
              <Choice
                label="Normalise per"
                value={drawn.entity}
                names={entities}
                empty="one scale for all rows"
                onChange={(entity) => draw({ entity, regions: [] })}
              />
              {drawn.entity !== "" && (
                <>
                  <span className="text-faded">from its own earlier rows, ordered by</span>
                  <Choice
                    label="Order of rows"
                    value={orderOf(drawn, outline)}
                    names={orderColumns(outline)}
                    onChange={(order) => draw({ order, regions: [] })}
                  />
                </>
              )}
            </div>
          )}
        </FieldRow>
      )}
      {drawn.x !== "" && drawn.y !== "" && <Drawing state={state} draw={draw} />}
      {drawn.regions.length > 0 && (
        <FieldRow name="Elsewhere" hint="the label outside all regions; none if empty" finding={undefined}>
          {() => (
            <input
              aria-label="Label outside"
              className="field w-48"
              value={drawn.otherwise}
              onChange={(event) => draw({ otherwise: event.target.value })}
            />
          )}
        </FieldRow>
      )}
    </>
  );
}

function Drawing({
  state: { choices, outline },
  draw,
}: {
  readonly state: NewPipelineForm;
  readonly draw: (changes: Partial<RegionChoices>) => void;
}) {
  const { drawn, table } = choices;
  const target = targetOf(choices, outline);
  const scales = "drawn" in target ? target.drawn.scales : undefined;
  const strand = parseTableName(table)?.table;
  const { x, y, entity, regions } = drawn;
  const { value: found, failure } = usePosted<Points>(outline && "/api/draft/points", {
    ...(outline ? pointsQuestion(table, outline, scales) : {}),
    strand,
    x,
    y,
    ...(entity === "" ? {} : { colour: entity }),
  });
  return (
    <RegionDrawing
      label="Regions"
      axes={{ x, y, colour: entity === "" ? undefined : entity }}
      regions={regions}
      onChange={(next) => draw({ regions: next })}
      found={found}
      failure={failure}
    />
  );
}

function Choice({
  label,
  value,
  names,
  empty = "choose …",
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly names: readonly string[];
  /** What is chosen with nothing. */
  readonly empty?: string;
  readonly onChange: (name: string) => void;
}) {
  return (
    <Select
      label={label}
      className="max-w-80"
      value={value}
      options={[{ value: "", label: empty }, ...names]}
      onChange={onChange}
    />
  );
}
