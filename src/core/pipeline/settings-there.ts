import { ALGORITHM_NAMES, ALGORITHMS } from "../learn/algorithms";
import { STEP_KINDS } from "../steps";
import { pipelineJsonSchema } from "./schema";

/** What takes settings, and which. */
export interface SettingsThere {
  /** As in "not a setting of ...". */
  readonly owner: string;
  readonly names: readonly string[];
}

const record = (value: unknown): Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null ? (value as Readonly<Record<string, unknown>>) : {};

/** As much of a JSON Schema as is followed here. */
interface SchemaNode {
  readonly properties?: Readonly<Record<string, SchemaNode>>;
  readonly additionalProperties?: SchemaNode | boolean;
  readonly items?: SchemaNode;
  readonly anyOf?: readonly SchemaNode[];
  readonly oneOf?: readonly SchemaNode[];
  readonly const?: unknown;
}

let fileSchema: SchemaNode | undefined;
/** The schema of files, made when a mistake first asks for it. */
const schemaOfFiles = (): SchemaNode => (fileSchema ??= pipelineJsonSchema() as SchemaNode);

/** All that a node may be. */
const formsOf = (node: SchemaNode): readonly SchemaNode[] =>
  (node.anyOf ?? node.oneOf)?.flatMap(formsOf) ?? [node];

/** What lies below nodes under a key or a position. */
function below(nodes: readonly SchemaNode[], key: string | number): readonly SchemaNode[] {
  return nodes.flatMap((node) => {
    const next = typeof key === "number" ? node.items : (node.properties?.[key] ?? node.additionalProperties);
    return typeof next === "object" ? formsOf(next) : [];
  });
}

/** Names that a mapping in the file may have, by the schema of files; of steps only those of their own kind. */
function namesByPlace(
  path: readonly (string | number)[],
  valueAt: (path: readonly (string | number)[]) => unknown,
): readonly string[] {
  let nodes = formsOf(schemaOfFiles());
  path.forEach((key, depth) => {
    const kind = record(valueAt(path.slice(0, depth + 1)))["do"];
    nodes = below(nodes, key).filter(
      (node) => node.properties?.["do"]?.const === undefined || node.properties["do"].const === kind,
    );
  });
  return [...new Set(nodes.flatMap((node) => Object.keys(node.properties ?? {})))];
}

/**
 * The settings of what a place in the file belongs to: a learner, a step, or another mapping.
 * @param valueAt the file as it was read, by path
 */
export function settingsThere(
  path: readonly (string | number)[],
  valueAt: (path: readonly (string | number)[]) => unknown,
): SettingsThere {
  const [part, , inside] = path;
  if (part === "candidates" && inside === "settings" && path.length === 3) {
    const algorithm = ALGORITHM_NAMES.find((name) => name === record(valueAt(path.slice(0, 2)))["algorithm"]);
    if (algorithm) return { owner: algorithm, names: Object.keys(ALGORITHMS[algorithm].settings.shape) };
  }
  const step = part === "strands" && inside === "steps" ? record(valueAt(path.slice(0, 4)))["do"] : undefined;
  const kind = STEP_KINDS.find((known) => known.kind === step);
  if (kind && path.length === 4)
    return { owner: `the step "${kind.kind}"`, names: Object.keys(kind.settings.shape) };
  const own = path.filter((key) => typeof key === "string").at(-1);
  const owner = own === undefined ? "the file" : `"${own}"`;
  return {
    owner: kind ? `${owner} of the step "${kind.kind}"` : owner,
    names: namesByPlace(path, valueAt),
  };
}

/** The document that says what may stand at a place in the file. */
export function documentFor([part, , inside]: readonly (string | number)[]): string {
  if (part === "strands" && inside === "steps") return "docs/steps.md";
  if (part === "candidates" && inside === "settings") return "docs/learners.md";
  return "docs/pipeline-file.md";
}
