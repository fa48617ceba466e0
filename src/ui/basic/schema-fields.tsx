"use client";
import { useId } from "react";
import { z } from "zod";

/** One setting, as its JSON Schema tells of it. */
export interface Property {
  readonly type?: string;
  readonly description?: string;
  readonly default?: unknown;
  readonly enum?: readonly string[];
}

/** The settings of a schema with what each means, in their order. */
export function propertiesOf(schema: z.ZodType): readonly (readonly [string, Property])[] {
  const { properties } = z.toJSONSchema(schema, { io: "input" }) as {
    readonly properties?: Readonly<Record<string, Property>>;
  };
  return Object.entries(properties ?? {});
}

interface Props {
  readonly properties: readonly (readonly [string, Property])[];
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
  readonly property: Property;
  readonly value: unknown;
  readonly onChange: (value: unknown) => void;
}) {
  const id = useId();
  const standard =
    property.default === undefined
      ? ""
      : typeof property.default === "object"
        ? JSON.stringify(property.default)
        : String(property.default);
  const read = (text: string): unknown => {
    if (text.trim() === "") return undefined;
    if (property.type === "array")
      return text
        .split(/[\s,]+/)
        .filter(Boolean)
        .map(Number);
    if (property.type === "object") {
      try {
        return JSON.parse(text) as unknown;
      } catch {
        return text;
      }
    }
    return Number.isNaN(Number(text)) ? text : Number(text);
  };
  const shown =
    value === undefined
      ? ""
      : Array.isArray(value)
        ? value.join(", ")
        : typeof value === "object"
          ? JSON.stringify(value)
          : String(value);
  return (
    <div className="grid grid-cols-[11rem_9rem_1fr] items-baseline gap-x-3">
      <label htmlFor={id} className="font-medium">
        {name.replaceAll("_", " ")}
      </label>
      {property.enum ? (
        <select
          id={id}
          className="field"
          value={shown}
          onChange={(event) => onChange(event.target.value === "" ? undefined : event.target.value)}
        >
          <option value="">{standard || "not set"}</option>
          {property.enum
            .filter((each) => each !== standard)
            .map((each) => (
              <option key={each} value={each}>
                {each}
              </option>
            ))}
        </select>
      ) : property.type === "boolean" ? (
        <input
          id={id}
          type="checkbox"
          className="justify-self-start"
          checked={value === true}
          onChange={(event) => onChange(event.target.checked || undefined)}
        />
      ) : (
        <input
          id={id}
          className="field figure"
          value={shown}
          placeholder={standard || "not set"}
          onChange={(event) => onChange(read(event.target.value))}
        />
      )}
      <span className="text-sm text-faded">{property.description}</span>
    </div>
  );
}
