"use client";
import { asChoices, Chips, ColumnsPick, OrderPick, Pick } from "./controls";
import { ExpressionField } from "./expression-field";
import { useForm } from "./form-context";
import { Expressions, JoinColumns, MapOf, ValuesOf } from "./records";
import { Regions } from "./regions";
import { SelectField } from "./select-field";
import { useColumns, type SettingOf } from "./setting-props";
import { list, orAbsent, orders, record, words } from "./setting-values";
import { StrandPick } from "./strand-pick";

export function ColumnSetting({ input, label, value, onChange, around }: SettingOf<"column">) {
  const columns = useColumns(input.there, around);
  return (
    <Pick
      label={label}
      value={words(value)}
      choices={asChoices(columns, input.families)}
      empty="none"
      onChange={(name) => onChange(name === "" ? undefined : name)}
    />
  );
}

export function ColumnsSetting({ input, label, value, onChange, around }: SettingOf<"columns">) {
  const columns = useColumns(input.there, around);
  return (
    <ColumnsPick
      label={label}
      values={list(value)}
      columns={columns}
      families={input.families}
      onChange={(names) => onChange(orAbsent(names))}
    />
  );
}

export function StrandSetting({ label, value, onChange }: SettingOf<"strand">) {
  return <StrandPick label={label} value={words(value)} onChange={onChange} />;
}

export function StrandsSetting({ label, value, onChange }: SettingOf<"strands">) {
  const names = list(value);
  return (
    <Chips values={names} onRemove={(index) => onChange(orAbsent(names.filter((_, at) => at !== index)))}>
      <StrandPick
        label={`Add to ${label}`}
        value=""
        onChange={(name) => {
          if (name !== undefined) onChange([...names, name]);
        }}
      />
    </Chips>
  );
}

export function OrderSetting({ label, value, onChange }: SettingOf<"order">) {
  const { columns } = useForm();
  return (
    <OrderPick
      label={label}
      values={orders(value)}
      columns={columns}
      onChange={(all) => onChange(orAbsent(all.map((entry) => (entry.descending ? entry : entry.column))))}
    />
  );
}

export function ExpressionSetting({ input, label, value, onChange, around }: SettingOf<"expression">) {
  const { place, columns, strands } = useForm();
  const joined =
    input.with === undefined ? undefined : strands.find(({ name }) => name === around[input.with ?? ""]);
  return (
    <ExpressionField
      label={label}
      value={words(value)}
      onChange={(text) => onChange(text.trim() === "" ? undefined : text)}
      place={place}
      columns={columns}
      other={joined && { strand: joined.name, columns: joined.columns }}
    />
  );
}

export function SelectSetting({ label, value, onChange }: SettingOf<"select">) {
  return <SelectField label={label} value={words(value)} onChange={onChange} />;
}

export function ExpressionsSetting({ input, label, value, onChange, around }: SettingOf<"expressions">) {
  return (
    <Expressions
      label={label}
      value={record(value)}
      aggregate={input.aggregate ?? false}
      by={list(around["by"])}
      onChange={onChange}
    />
  );
}

export function JoinColumnsSetting({ label, value, onChange, around }: SettingOf<"join columns">) {
  const there = useColumns("with", around);
  return (
    <JoinColumns
      label={label}
      value={value}
      there={there}
      other={words(around["with"])}
      onChange={onChange}
    />
  );
}

export function ValuesSetting({ input, label, value, onChange, around }: SettingOf<"values of">) {
  return (
    <ValuesOf
      label={label}
      column={words(around[input.column])}
      value={Array.isArray(value) ? value : []}
      onChange={(all) => onChange(orAbsent(all))}
    />
  );
}

export function MapSetting({ input, label, value, onChange, around }: SettingOf<"map of">) {
  return (
    <MapOf label={label} column={words(around[input.column])} value={record(value)} onChange={onChange} />
  );
}

export function RegionsSetting({ label, value, onChange }: SettingOf<"regions">) {
  return <Regions label={label} value={value} onChange={onChange} />;
}
