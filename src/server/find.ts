import { bestFits } from "@/core/find/rank";
import { askingFor } from "@/warehouse/asking";
import type { Catalog } from "@/core/plan/catalog";
import { listModels } from "@/store/models";
import { listPipelines, type PipelineRow } from "@/store/pipelines";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { listRuns } from "@/store/runs";
import type { Context } from "@/runs/context";
import { offeredTables } from "./tables";

/** Something with a name, and where it is. */
export interface Finding {
  readonly group: "Do" | "Areas" | "Pipelines" | "Tables" | "Columns" | "Versions" | "Runs";
  readonly name: string;
  readonly href: string;
}

const STAGES = ["brief", "braid", "train", "compare", "deliver", "history"] as const;
const COMMANDS: readonly Finding[] = [
  { group: "Do", name: "New pipeline", href: "/pipelines/new" },
  { group: "Do", name: "Import files", href: "/tables/import" },
];
const AREAS: readonly Finding[] = (
  [
    ["Today", "/"],
    ["Tables", "/tables"],
    ["Pipelines", "/pipelines"],
    ["Models", "/models"],
    ["Runs", "/runs"],
    ["Health of the server", "/health"],
  ] as const
).map(([name, href]) => ({ group: "Areas", name, href }));
/** Findings of one group that are shown. */
const MOST = 6;
/** Runs that are looked at, the newest. */
const RECENT_RUNS = 200;
const CATALOG_MILLISECONDS = 10_000;
/** The same, where no table has the name that was typed. */
const MISSED_MILLISECONDS = 1000;
let kept: { readonly at: number; readonly catalog: Promise<Catalog> } | undefined;

/**
 * The catalog, read again if what is known is older than so many milliseconds. It is read for all who ask, so that it does not end
 * with the one letter that asked first; a reading that failed is not kept.
 */
function catalogWithin(milliseconds: number, read: () => Promise<Catalog>): Promise<Catalog> {
  if (!kept || Date.now() - kept.at > milliseconds) {
    const catalog = askingFor(undefined, read).catch((): Catalog => {
      if (kept?.catalog === catalog) kept = undefined;
      return { tables: [] };
    });
    kept = { at: Date.now(), catalog };
  }
  return kept.catalog;
}

const pipelineHref = (name: string, stage: string): string =>
  `/pipelines/${encodeURIComponent(name)}/${stage}`;
const tableHref = (schema: string, table: string): string =>
  `/tables/${encodeURIComponent(schema)}/${encodeURIComponent(table)}`;

/** Pipelines by name; with the beginning of a stage typed behind it, that stage. */
function findPipelines(pipelines: readonly PipelineRow[], typed: string): readonly Finding[] {
  const plain = pipelines.map(({ name }): Finding => ({
    group: "Pipelines",
    name,
    href: pipelineHref(name, "braid"),
  }));
  const [, head, last] = /^(.*[^\s:]):?\s+(\S+)$/.exec(typed.trim()) ?? [];
  const stage = last && STAGES.find((each) => each.startsWith(last.toLowerCase()));
  const staged = stage
    ? bestFits(plain, head!, MOST).map(({ name }): Finding => ({
        group: "Pipelines",
        name: `${name}: ${stage}`,
        href: pipelineHref(name, stage),
      }))
    : [];
  return [...staged, ...bestFits(plain, typed, MOST)].slice(0, MOST);
}

const findTables = ({ tables }: Catalog): readonly Finding[] =>
  tables.map(({ schema, table }) => ({
    group: "Tables",
    name: `${schema}.${table}`,
    href: tableHref(schema, table),
  }));

/** Everything with a name that fits what was typed: commands, areas, pipelines, tables, columns, versions and runs; with nothing typed, where most people go. */
export async function findByName({ store, warehouse }: Context, typed: string): Promise<readonly Finding[]> {
  const { db } = store;
  const fixed = [...bestFits(COMMANDS, typed, MOST), ...bestFits(AREAS, typed, MOST)];
  const pipelines = findPipelines(await listPipelines(db), typed);
  const readCatalog = (): Promise<Catalog> => offeredTables(warehouse);
  if (typed.trim() === "") {
    // The box was opened: what is typed next shall find a table that a run has just written.
    void catalogWithin(0, readCatalog);
    return [...fixed, ...pipelines];
  }
  const [catalog, everyPipeline, models, runs] = await Promise.all([
    catalogWithin(CATALOG_MILLISECONDS, readCatalog),
    listEveryPipeline(db),
    listModels(db),
    listRuns(db, { limit: RECENT_RUNS }),
  ]);
  const names = new Map(everyPipeline.map(({ id, name }) => [id, name]));
  const found = (all: readonly Finding[]): readonly Finding[] => bestFits(all, typed, MOST);
  const tables = found(findTables(catalog));
  const tablesNow =
    tables.length > 0 ? tables : found(findTables(await catalogWithin(MISSED_MILLISECONDS, readCatalog)));
  return [
    ...fixed,
    ...pipelines,
    ...tablesNow,
    ...found(
      catalog.tables.flatMap(({ schema, table, columns }) =>
        columns.map(({ name }): Finding => ({
          group: "Columns",
          name: `${name} of ${schema}.${table}`,
          href: tableHref(schema, table),
        })),
      ),
    ),
    ...found(
      models.map(({ id, pipelineId, number, candidate }) => ({
        group: "Versions",
        name: `${names.get(pipelineId) ?? ""}, version ${number}: ${candidate}`,
        href: `/models/${id}`,
      })),
    ),
    ...found(
      runs.map(({ id, kind, pipelineId, state }) => ({
        group: "Runs",
        name: `${kind === "train" ? "training" : "scoring"} ${names.get(pipelineId) ?? ""}, ${state}, ${id.slice(0, 8)}`,
        href: `/runs/${id}`,
      })),
    ),
  ];
}
