import { z } from "zod";

/** What a schema tells of one setting, in the words of JSON Schema. */
export interface SettingProperty {
  readonly type?: string;
  readonly description?: string;
  readonly default?: unknown;
  readonly enum?: readonly string[];
  readonly const?: string | boolean;
  readonly anyOf?: readonly SettingProperty[];
  readonly items?: SettingProperty;
  readonly minimum?: number;
  readonly exclusiveMinimum?: number;
  readonly maximum?: number;
  readonly exclusiveMaximum?: number;
}

type NamedProperty = readonly [setting: string, property: SettingProperty];

/** The conversion takes milliseconds, and forms and checks ask for the same few schemas over and over. */
const converted = new WeakMap<z.ZodType, readonly NamedProperty[]>();

/** The settings of an object schema by name, in the schema's order; none for another schema. */
export function settingProperties(schema: z.ZodType): readonly NamedProperty[] {
  const known = converted.get(schema);
  if (known) return known;
  const { properties = {} } = z.toJSONSchema(schema, { io: "input" }) as {
    readonly properties?: Readonly<Record<string, SettingProperty>>;
  };
  const found = Object.entries(properties);
  converted.set(schema, found);
  return found;
}
