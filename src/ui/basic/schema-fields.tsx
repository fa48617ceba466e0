"use client";
import { useId, useState } from "react";
import { mistakeIn, readTyped, textOf } from "./typed-setting";
import type { SettingProperty } from "@/core/setting-properties";
import { Select } from "../select/select";

interface Props {
  readonly properties: readonly (readonly [string, SettingProperty])[];
  readonly values: Readonly<Record<string, unknown>>;
  readonly onChange: (name: string, value: unknown) => void;
}

/** One field for each setting, with its default and its meaning. */
export function SchemaFields({ properties, values, onChange }: Props) {
  return (
    <div className="space-y-2.5">
      {properties.map(([name, property]) => (
        <Field
          key={name}
          name={name}
          property={property}
          value={values[name]}
          onChange={(value) => onChange(name, value)}
        />
      ))}
    </div>
  );
}

function Field({
  name,
  property,
  value,
  onChange,
}: {
  readonly name: string;
  readonly property: SettingProperty;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}) {
  const id = useId();
  // What is being typed stays as it is, also where it is no value yet, such as "0.".
  const [typed, setTyped] = useState<string>();
  const standard = textOf(property.default);
  const shown = value === undefined ? standard : textOf(value);
  const isSwitch = !property.enum && property.type === "boolean";
  const mistake = typed === undefined ? undefined : mistakeIn(typed, property);
  return (
    <div className="grid grid-cols-[11rem_9rem_1fr] items-baseline gap-x-3">
      <label htmlFor={id} className="font-medium">
        {name.replaceAll("_", " ")}
      </label>
      {property.enum && (
        <Select
          id={id}
          label={name.replaceAll("_", " ")}
          value={value === undefined ? "" : shown}
          onChange={(chosen) => onChange(chosen === "" ? undefined : chosen)}
          options={[
            { value: "", label: standard.replaceAll("_", " ") || "not set" },
            ...property.enum
              .filter((choice) => choice !== standard)
              .map((choice) => ({ value: choice, label: choice.replaceAll("_", " ") })),
          ]}
        />
      )}
      {isSwitch && (
        <input
          id={id}
          type="checkbox"
          className="justify-self-start"
          checked={value === true}
          onChange={(event) => onChange(event.target.checked || undefined)}
        />
      )}
      {!property.enum && !isSwitch && (
        <input
          id={id}
          className={`field figure ${value === undefined && typed === undefined ? "text-faded italic" : ""}`}
          value={typed ?? shown}
          title={
            value === undefined
              ? "default; type another value to change it"
              : `default: ${standard || "not set"}`
          }
          aria-invalid={mistake !== undefined}
          aria-describedby={`${id}-mistake`}
          onChange={(event) => {
            setTyped(event.target.value);
            onChange(readTyped(event.target.value, property));
          }}
          onBlur={() => setTyped((now) => (now !== undefined && mistakeIn(now, property) ? now : undefined))}
        />
      )}
      <span className="text-caption text-faded">
        {property.description}
        <span id={`${id}-mistake`} role="status" className="block text-madder">
          {mistake}
        </span>
      </span>
    </div>
  );
}
