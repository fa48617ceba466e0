import { LRUCache } from "lru-cache";
import { checkPipeline } from "@/core/plan/check";
import type { Catalog } from "@/core/plan/catalog";
import type { CheckedPlan } from "@/core/plan/plan";
import { failure, problem, type Result } from "@/core/problem";
import { parseTableName } from "@/core/pipeline/table-name";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { patternProblems } from "./patterns";
import { parseFile } from "./parse-file";

/** Checks that are kept for a catalog. */
const KEPT_CHECKS = 30;

/** Checks by catalog and text. A catalog that has changed is another object, and begins anew. */
const checks = new WeakMap<Catalog, LRUCache<string, Promise<Result<CheckedPlan>>>>();

/** Parses a pipeline file and checks it against the live catalog; what was found for the same text and catalog is kept. */
export async function checkText(
  text: string,
  warehouse: Warehouse,
  given?: Catalog,
): Promise<Result<CheckedPlan>> {
  const catalog = given ?? (await warehouse.catalog.read());
  const kept = checks.get(catalog) ?? new LRUCache({ max: KEPT_CHECKS });
  checks.set(catalog, kept);
  const key = `${warehouse.config.outputSchema} ${text}`;
  const found = kept.get(key) ?? checkAgainst(text, warehouse, catalog);
  kept.set(key, found);
  found.catch(() => kept.delete(key));
  return found;
}

async function checkAgainst(
  text: string,
  warehouse: Warehouse,
  catalog: Catalog,
): Promise<Result<CheckedPlan>> {
  const parsed = await parseFile(text);
  if (!parsed.ok) return parsed;
  const checked = checkPipeline(parsed.value, catalog);
  if (!checked.ok) return checked;
  const { outputSchema } = warehouse.config;
  const { place, file } = parsed.value;
  const named = file.delivery.flatMap((delivery, index) => [
    { name: delivery.table, path: ["delivery", index, "table"] },
    ...delivery.routes.map((route, at) => ({
      name: route.table,
      path: ["delivery", index, "routes", at, "table"],
    })),
  ]);
  const misplaced = named.flatMap(({ name, path }) => {
    const target = parseTableName(name);
    if (target?.schema === outputSchema && target.table !== "ravlen_ledger") return [];
    return [
      place(
        problem(
          "delivery_schema",
          `Predictions can only be delivered into the schema "${outputSchema}"; this says "${name}".`,
          `Write table: ${outputSchema}.NAME.`,
          { path },
        ),
      ),
    ];
  });
  const found = [...misplaced, ...(await patternProblems(checked.value, warehouse)).map(place)];
  return found.length > 0 ? failure(...found) : checked;
}
