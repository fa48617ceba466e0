"use client";
import type { ComponentType } from "react";
import { Pick } from "./controls";
import {
  ColumnSetting,
  ColumnsSetting,
  ExpressionSetting,
  ExpressionsSetting,
  JoinColumnsSetting,
  MapSetting,
  OrderSetting,
  RegionsSetting,
  SelectSetting,
  StrandSetting,
  StrandsSetting,
  ValuesSetting,
} from "./column-settings";
import type { Field, Input } from "./field";
import {
  ChoiceSetting,
  ChoicesSetting,
  ConstantSetting,
  NumberSetting,
  NumbersSetting,
  TextSetting,
  WordsSetting,
  YesSetting,
} from "./plain-settings";
import { ByColumn } from "./records";
import type { SettingOf, SettingProps } from "./setting-props";
import { record } from "./setting-values";
import { initialOf, insideOf, partOf } from "./variant";

/** The control of each way of asking. */
const CONTROLS: { readonly [K in Input["as"]]: ComponentType<SettingOf<K>> } = {
  text: TextSetting,
  number: NumberSetting,
  constant: ConstantSetting,
  yes: YesSetting,
  choice: ChoiceSetting,
  choices: ChoicesSetting,
  words: WordsSetting,
  numbers: NumbersSetting,
  column: ColumnSetting,
  columns: ColumnsSetting,
  strand: StrandSetting,
  strands: StrandsSetting,
  order: OrderSetting,
  expression: ExpressionSetting,
  select: SelectSetting,
  expressions: ExpressionsSetting,
  "by column": ByColumnSetting,
  "join columns": JoinColumnsSetting,
  "values of": ValuesSetting,
  "map of": MapSetting,
  regions: RegionsSetting,
  variant: VariantSetting,
};

/** The control for one setting. */
export function Setting(props: SettingProps) {
  const Control = CONTROLS[props.input.as] as ComponentType<SettingProps>;
  return <Control {...props} />;
}

function ByColumnSetting({ input, label, value, onChange, around }: SettingOf<"by column">) {
  return (
    <ByColumn
      label={label}
      value={record(value)}
      onChange={onChange}
      initial={input.initial}
      control={(name, inner, put) => (
        <Setting input={input.value} label={name} value={inner} onChange={put} around={around} />
      )}
    />
  );
}

function VariantSetting({ input, label, value, onChange, initial, around }: SettingOf<"variant">) {
  const { parts, absent } = input;
  const shown = value ?? initial;
  const chosen = partOf(parts, shown);
  const part = parts[chosen];
  const choices = parts.map((one, index) => [String(index), one.label] as const);
  const inside = part && insideOf(part, shown);
  return (
    <div className="flex flex-wrap items-start gap-3">
      <Pick
        label={label}
        value={chosen < 0 ? "" : String(chosen)}
        empty={absent}
        choices={choices}
        onChange={(index) => {
          const wanted = parts[Number(index)];
          onChange(index === "" || !wanted ? undefined : initialOf(wanted));
        }}
      />
      {part && inside && "input" in part.is && (
        <div className="min-w-40 flex-1">
          <Setting
            input={part.is.input}
            label={`${label}: ${part.label}`}
            value={inside.inner}
            onChange={(inner) => onChange(inner === undefined ? undefined : inside.wrap(inner))}
            around={around}
          />
        </div>
      )}
      {part && inside && "fields" in part.is && (
        <Fields
          fields={part.is.fields}
          label={label}
          value={record(inside.inner)}
          onChange={(inner) => onChange(inside.wrap(inner))}
        />
      )}
    </div>
  );
}

function Fields({
  fields,
  label,
  value,
  onChange,
}: {
  readonly fields: readonly Field[];
  readonly label: string;
  readonly value: Readonly<Record<string, unknown>>;
  readonly onChange: (value: Readonly<Record<string, unknown>>) => void;
}) {
  return fields.map((field) => (
    <div key={field.name} className="flex items-center gap-1.5">
      <span className="text-caption text-faded">{field.name.replaceAll("_", " ")}</span>
      <Setting
        input={field}
        label={`${label}: ${field.name}`}
        value={value[field.name]}
        around={value}
        onChange={(inner) =>
          onChange(
            Object.fromEntries(
              Object.entries({ ...value, [field.name]: inner }).filter(
                ([, written]) => written !== undefined,
              ),
            ),
          )
        }
      />
    </div>
  ));
}
