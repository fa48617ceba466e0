import type { z } from "zod";
import { suggestion } from "../nearest";
import { failure, problem, success, type Problem, type Result } from "../problem";
import { completeFile } from "./complete-file";
import { migrate } from "./migrate";
import { placeProblem, readSource, type Source } from "./source";
import { pipelineSchema, type PipelineFile } from "./schema";
import { describeMistake } from "./describe-mistake";
import { documentFor, settingsThere } from "./settings-there";

type Path = readonly (string | number)[];

/** A step whose settings cannot be read as they are: it stands in its place, marked, and does nothing. */
export interface UnreadySetting {
  readonly strand: number;
  readonly position: number;
  readonly kind: string;
  readonly settings: Readonly<Record<string, unknown>>;
}

export interface ParsedPipeline {
  readonly file: PipelineFile;
  readonly text: string;
  /** Steps that were left out because their settings cannot be read, when that was allowed; with what is wrong with them. */
  readonly unready: readonly UnreadySetting[];
  readonly problems: readonly Problem[];
  /** Adds line and column to a problem that has a path. */
  readonly place: (found: Problem) => Problem;
}

/**
 * Reads a pipeline file. All problems of form are reported at once, each at its line;
 * what the catalog says about it is checked later (`plan/check`).
 * @param options.draft let steps stand that cannot be read yet: they do nothing, and are listed as unready
 * @param options.source what {@link readSource} makes of the text, where that was done elsewhere
 */
export function parsePipeline(
  text: string,
  options: { readonly draft?: boolean; readonly source?: Result<Source> } = {},
): Result<ParsedPipeline> {
  const source = options.source ?? readSource(text);
  if (!source.ok) return source;
  const { raw, places } = source.value;
  const place = (found: Problem): Problem => placeProblem(places, found);
  const migrated = migrate(raw);
  if (!migrated.ok) return failure(...migrated.problems.map(place));
  const parsed = pipelineSchema.safeParse(migrated.value);
  if (parsed.success)
    return success({ file: completeFile(parsed.data), text, unready: [], problems: [], place });
  const problems = parsed.error.issues.flatMap((issue) => describeIssue(issue, migrated.value)).map(place);
  const left = options.draft ? withoutUnready(migrated.value, parsed.error.issues) : undefined;
  const again = left && pipelineSchema.safeParse(left.value);
  if (!left || !again?.success) return failure(...problems);
  return success({ file: completeFile(again.data), text, unready: left.unready, problems, place });
}

/** The same file with every step that an issue is about replaced by one that does nothing; undefined when something else is wrong too. */
function withoutUnready(
  raw: unknown,
  issues: readonly z.core.$ZodIssue[],
): { readonly value: unknown; readonly unready: readonly UnreadySetting[] } | undefined {
  const value = structuredClone(raw) as { strands: { steps: unknown[] }[] };
  const found = new Map<string, UnreadySetting>();
  for (const { path } of issues) {
    const [strands, strand, steps, position] = path;
    if (
      strands !== "strands" ||
      steps !== "steps" ||
      typeof strand !== "number" ||
      typeof position !== "number"
    )
      return undefined;
    const settings = valueAt(raw, ["strands", strand, "steps", position]);
    if (typeof settings !== "object" || settings === null) return undefined;
    const record = settings as Readonly<Record<string, unknown>>;
    found.set(`${strand}/${position}`, {
      strand,
      position,
      kind: String(record["do"] ?? ""),
      settings: record,
    });
    value.strands[strand]!.steps[position] = {
      do: "derive",
      columns: {},
      off: true,
      ...(typeof record["name"] === "string" && record["name"] !== ""
        ? { name: record["name"].slice(0, 60) }
        : {}),
    };
  }
  return { value, unready: [...found.values()] };
}

/** What a choice between kinds is called, by the setting that makes it. */
const CHOICES: Readonly<Record<string, { readonly code: string; readonly noun: string }>> = {
  do: { code: "unknown_step", noun: "step kind" },
  algorithm: { code: "unknown_algorithm", noun: "algorithm" },
};

/** What is wrong with a choice between kinds, when that is what Zod found. */
function describeChoice(issue: z.core.$ZodIssue, path: Path, raw: unknown): Problem | undefined {
  const choice = CHOICES[String(path.at(-1))];
  if (issue.code !== "invalid_union" || !("options" in issue) || !choice) return undefined;
  const { code, noun } = choice;
  const value = String(valueAt(raw, path) ?? "");
  return problem(
    code,
    value ? `There is no ${noun} "${value}".` : `The ${noun} is missing, under "${String(path.at(-1))}".`,
    suggestion(value, issue.options.map(String), noun),
    { path },
  );
}

/** Says what Zod found in words for people. */
function describeIssue(issue: z.core.$ZodIssue, raw: unknown): readonly Problem[] {
  const path = issue.path.map((key) => (typeof key === "symbol" ? String(key) : key));
  const where =
    path.length > 0
      ? `"${path.filter((part) => typeof part === "string").at(-1) ?? "the file"}"`
      : "the file";
  if (issue.code === "unrecognized_keys") {
    const known = settingsThere(path, (part) => valueAt(raw, part));
    return issue.keys.map((key) =>
      problem(
        "unknown_setting",
        `"${key}" is not a setting of ${known.owner}.`,
        suggestion(key, known.names, "setting"),
        { path: [...path, key] },
      ),
    );
  }
  const chosen = describeChoice(issue, path, raw);
  if (chosen) return [chosen];
  const value = valueAt(raw, path);
  if (value === undefined)
    return [
      problem("missing_setting", `${where} is missing.`, `Add it; ${documentFor(path)} shows an example.`, {
        path,
      }),
    ];
  const hint =
    issue.code === "invalid_value"
      ? `It can be ${issue.values.map((known) => JSON.stringify(known)).join(", ")}.`
      : `See ${documentFor(path)} for allowed values.`;
  return [problem("bad_setting", `${where}${describeMistake(issue, value)}.`, hint, { path })];
}

function valueAt(raw: unknown, path: Path): unknown {
  return path.reduce<unknown>(
    (value, key) => (value as Record<string | number, unknown> | undefined | null)?.[key],
    raw,
  );
}
