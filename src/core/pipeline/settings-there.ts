import { ALGORITHM_NAMES, ALGORITHMS } from "../learn/algorithms";
import { STEP_KINDS } from "../steps";

/** What takes settings, and which. */
export interface SettingsThere {
  /** As in "not a setting of ...". */
  readonly owner: string;
  readonly names: readonly string[];
}

const record = (value: unknown): Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null ? (value as Readonly<Record<string, unknown>>) : {};

/**
 * The settings of what a place in the file belongs to, when that is a learner or a step.
 * @param valueAt the file as it was read, by path
 */
export function settingsThere(
  path: readonly (string | number)[],
  valueAt: (path: readonly (string | number)[]) => unknown,
): SettingsThere | undefined {
  const [part, , inside] = path;
  if (part === "candidates" && inside === "settings" && path.length === 3) {
    const algorithm = ALGORITHM_NAMES.find((each) => each === record(valueAt(path.slice(0, 2)))["algorithm"]);
    return algorithm && { owner: algorithm, names: Object.keys(ALGORITHMS[algorithm].settings.shape) };
  }
  if (part === "strands" && inside === "steps" && path.length === 4) {
    const kind = STEP_KINDS.find((each) => each.kind === record(valueAt(path))["do"]);
    return kind && { owner: `the step "${kind.kind}"`, names: Object.keys(kind.settings.shape) };
  }
  return undefined;
}
