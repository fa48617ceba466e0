import type { z } from "zod";
import { STEP_KINDS } from "./index";
import type { StepKind } from "./step";

interface SchemaPart {
  readonly type?: string | readonly string[];
  readonly enum?: readonly unknown[];
  readonly default?: unknown;
}

/** The settings of a kind with their explanations, in the order of the module. */
export function settingsOf(kind: StepKind): readonly {
  readonly name: string;
  readonly help: string;
  readonly required: boolean;
  readonly initial: unknown;
}[] {
  const common = ["do", "name", "note", "off"];
  return Object.entries(kind.settings.shape)
    .filter(([name]) => !common.includes(name))
    .map(([name, value]) => {
      const schema = value as z.ZodType;
      const part = schema.def as unknown as {
        readonly type: string;
        readonly defaultValue?: unknown;
      } & SchemaPart;
      return {
        name,
        help: schema.description ?? "",
        required: part.type !== "default" && part.type !== "optional",
        initial: part.type === "default" ? part.defaultValue : undefined,
      };
    });
}

const oneLine = (text: string): string => text.replaceAll("|", "\\|").replaceAll("\n", " ");

function section(kind: StepKind): string {
  const { help } = kind;
  const rows = settingsOf(kind).map((setting) => {
    const initial = setting.initial === undefined ? "" : `\`${JSON.stringify(setting.initial)}\``;
    const state = setting.required ? "required" : initial;
    return `| \`${setting.name}\` | ${oneLine(setting.help)} | ${oneLine(state)} |`;
  });
  const example = [`- do: ${kind.kind}`, ...help.example.split("\n").map((line) => `  ${line}`)].join("\n");
  return [
    `## ${kind.kind}: ${kind.title.toLowerCase()}`,
    "",
    help.about,
    "",
    `Missing values: ${help.missing}`,
    "",
    "```yaml",
    example,
    "```",
    "",
    "| setting | description | default |",
    "| --- | --- | --- |",
    ...rows,
    "",
  ].join("\n");
}

/** The reference of all step kinds as Markdown: docs/steps.md. */
export function stepReference(): string {
  return [
    "# Steps",
    "",
    "Generated from the step modules by `./ravlen schema --steps > docs/steps.md`. Each step has `do`, and may have a `name` (shown in the Braid and in the SQL), a `note` (why it is there) and `off: true` (turned off). Learned values come from training rows only, are stored with the model version, and are used unchanged for scoring.",
    "",
    ...STEP_KINDS.map(
      (kind) =>
        `- [\`${kind.kind}\`](#${kind.kind}-${kind.title
          .toLowerCase()
          .replaceAll(/[^\p{L}\p{N} -]/gu, "")
          .replaceAll(" ", "-")}) ${kind.title}`,
    ),
    "",
    ...STEP_KINDS.map(section),
  ].join("\n");
}
