import { stepKind } from "../../steps";
import { valueIn } from "./parts";

/** A change of the file: where, and what stands there afterwards. */
export type NamedStep = readonly [path: readonly ["strands", number, "steps", number, "name"], name: string];

interface RawStrand {
  readonly name?: unknown;
  readonly steps?: unknown;
}

/** The name by which a step is called when the file gives it none; undefined where it cannot be read. */
function ownName(step: Readonly<Record<string, unknown>>): string | undefined {
  const kind = typeof step["do"] === "string" ? stepKind(step["do"]) : undefined;
  const settings = kind?.settings.safeParse(step);
  return kind && settings?.success ? kind.bind(settings.data).name : undefined;
}

/**
 * Names that have to be written into the file, so that what refers to steps by them goes on meaning the same steps: a step without a
 * name is called after what it does, which changes with its settings.
 * @param names by which steps of the main strand are referred to
 */
export function namesToWrite(text: string, names: readonly string[]): readonly NamedStep[] {
  const strands = valueIn(text, ["strands"]);
  const from = valueIn(text, ["rows", "from"]);
  const list = Array.isArray(strands) ? (strands as readonly RawStrand[]) : [];
  const main = list.findIndex(({ name }) => name === from);
  const steps = list[main]?.steps;
  if (!Array.isArray(steps)) return [];
  const known = (steps as readonly Readonly<Record<string, unknown>>[]).map((step, position) => ({
    position,
    isNamed: typeof step["name"] === "string",
    name: typeof step["name"] === "string" ? step["name"] : ownName(step),
  }));
  return [...new Set(names)].flatMap((name): NamedStep[] => {
    const found = known.find((step) => step.name === name);
    return found && !found.isNamed ? [[["strands", main, "steps", found.position, "name"], name]] : [];
  });
}
