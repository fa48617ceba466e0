import { braidOf, type Braid } from "@/core/plan/braid";
import { surveyPipeline } from "@/core/plan/check";
import { placeKeys } from "@/core/plan/place-keys";
import type { CheckedPlan } from "@/core/plan/plan";
import { withRoughShare } from "@/core/plan/share";
import type { Problem } from "@/core/problem";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { patternProblems } from "../patterns";
import { parseFile } from "../parse-file";

/** A draft as far as it can be understood. */
export interface DraftSurvey {
  /** Undefined when the text is no pipeline at all. */
  readonly braid: Braid | undefined;
  readonly problems: readonly Problem[];
  /** A key for each place, by strand: what was measured under an equal key is still true. Empty where rows cannot be read, because something before is wrong. */
  readonly keys: Readonly<Record<string, readonly string[]>>;
}

export interface OpenDraft {
  readonly survey: DraftSurvey;
  readonly plan: CheckedPlan | undefined;
}

/** Reads a draft against today's catalog; what is wrong is marked, and the rest is there. */
export async function openDraft(text: string, warehouse: Warehouse, share = 1): Promise<OpenDraft> {
  const parsed = await parseFile(text, { draft: true });
  if (!parsed.ok)
    return { survey: { braid: undefined, problems: parsed.problems, keys: {} }, plan: undefined };
  const { plan: whole, problems: own } = surveyPipeline(parsed.value, await warehouse.catalog.read());
  if (!whole) return { survey: { braid: undefined, problems: own, keys: {} }, plan: undefined };
  const problems = [...own, ...(await patternProblems(whole, warehouse)).map(parsed.value.place)];
  const plan = withRoughShare(whole, share);
  const key = placeKeys(plan);
  const keys = Object.fromEntries(
    plan.strands.map((strand) => [
      strand.name,
      [...strand.steps.keys(), strand.steps.length].map((after) =>
        blockersOf(plan, problems, strand.name, after).length > 0 ? "" : key(strand.name, after),
      ),
    ]),
  );
  return {
    survey: { braid: braidOf(plan, { unready: parsed.value.unready, problems }), problems, keys },
    plan,
  };
}

/**
 * What stands in the way of reading rows after some steps of a strand: errors in those steps, or in anything they use.
 */
export function blockersOf(
  plan: CheckedPlan,
  problems: readonly Problem[],
  strand: string,
  after: number,
): readonly Problem[] {
  const used = new Set<string>();
  const visit = (name: string, upTo: number): void => {
    const found = plan.strands.find((strand) => strand.name === name);
    if (!found || used.has(name)) return;
    used.add(name);
    if (found.from.kind === "strand") visit(found.from.name, Infinity);
    for (const { step } of found.steps.slice(0, upTo))
      step.strands.forEach((strand) => visit(strand, Infinity));
  };
  visit(strand, after);
  const learns = strand === plan.main.name && after > plan.learnsFrom;
  return problems.filter(({ severity, location }) => {
    if (severity !== "error") return false;
    const [part, index, inside, position] = location?.path ?? [];
    if (part !== "strands")
      return learns && part !== "delivery" && part !== "schedules" && part !== "candidates";
    const name = plan.file.strands[Number(index)]?.name ?? "";
    if (!used.has(name)) return false;
    return name !== strand || inside !== "steps" || typeof position !== "number" || position < after;
  });
}
