"use client";
import { z } from "zod";
import { ALGORITHMS, type Algorithm } from "@/core/learn/algorithms";

interface Property {
  readonly type?: string;
  readonly description?: string;
  readonly default?: unknown;
  readonly enum?: readonly string[];
  readonly minimum?: number;
  readonly exclusiveMinimum?: number;
  readonly maximum?: number;
}

/** Settings that come after those of the learner itself. */
const LAST = ["validation_share", "stop_after", "missing", "balance"];

/** The settings of a learner with what each means, as its schema tells. */
export function settingsOf(algorithm: Algorithm): readonly (readonly [string, Property])[] {
  const schema = z.toJSONSchema(ALGORITHMS[algorithm].settings, { io: "input" }) as { readonly properties?: Readonly<Record<string, Property>> };
  const rank = (name: string): number => LAST.indexOf(name);
  return Object.entries(schema.properties ?? {}).sort(([left], [right]) => rank(left) - rank(right));
}

/** Settings most people never touch: folded away. */
const RARE = new Set(["most_levels", "tolerance", "most_passes", "sample_rows", "reference", "bins", "seed"]);

interface Props {
  readonly algorithm: Algorithm;
  readonly values: Readonly<Record<string, unknown>>;
  readonly onChange: (name: string, value: unknown) => void;
}

/** One field for each setting of a learner, with its default and its meaning. */
export function SettingFields({ algorithm, values, onChange }: Props) {
  const all = settingsOf(algorithm);
  const field = ([name, property]: readonly [string, Property]) => <Field key={name} name={name} property={property} value={values[name]} onChange={(value) => onChange(name, value)} />;
  const rare = all.filter(([name]) => RARE.has(name));
  return (
    <div className="space-y-2.5">
      {all.filter(([name]) => !RARE.has(name)).map(field)}
      {rare.length > 0 && <details><summary className="cursor-pointer text-sm text-faded">Settings that are seldom touched</summary><div className="mt-2 space-y-2.5">{rare.map(field)}</div></details>}
    </div>
  );
}

function Field({ name, property, value, onChange }: { readonly name: string; readonly property: Property; readonly value: unknown; readonly onChange: (value: unknown) => void }) {
  const id = `setting-${name}`;
  const standard = property.default === undefined ? "" : typeof property.default === "object" ? JSON.stringify(property.default) : String(property.default);
  const read = (text: string): unknown => {
    if (text.trim() === "") return undefined;
    if (property.type === "array") return text.split(/[\s,]+/).filter(Boolean).map(Number);
    if (property.type === "object") { try { return JSON.parse(text) as unknown; } catch { return text; } }
    return Number.isNaN(Number(text)) ? text : Number(text);
  };
  const shown = value === undefined ? "" : Array.isArray(value) ? value.join(", ") : typeof value === "object" ? JSON.stringify(value) : String(value);
  return (
    <div className="grid grid-cols-[11rem_9rem_1fr] items-baseline gap-x-3">
      <label htmlFor={id} className="font-medium">{name.replaceAll("_", " ")}</label>
      {property.enum ? <select id={id} className="field" value={shown} onChange={(event) => onChange(event.target.value === "" ? undefined : event.target.value)}><option value="">{standard || "not set"}</option>{property.enum.filter((each) => each !== standard).map((each) => <option key={each} value={each}>{each}</option>)}</select>
        : property.type === "boolean" ? <input id={id} type="checkbox" className="justify-self-start" checked={value === true} onChange={(event) => onChange(event.target.checked || undefined)} />
          : <input id={id} className="field figure" value={shown} placeholder={standard || "not set"} onChange={(event) => onChange(read(event.target.value))} />}
      <span className="text-sm text-faded">{property.description}</span>
    </div>
  );
}
