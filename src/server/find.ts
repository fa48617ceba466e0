import { bestFits } from "@/core/find/rank";
import { askingFor } from "@/warehouse/asking";
import type { Catalog } from "@/core/plan/catalog";
import { findRuns, findVersions } from "@/store/find";
import { listPipelines, type PipelineRow } from "@/store/pipelines";
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
    ["Server health", "/health"],
  ] as const
).map(([name, href]) => ({ group: "Areas", name, href }));
/** Findings of one group that are shown. */
const MOST = 6;
/** Versions and runs that are ranked, the newest that have all words. */
const RANKED = 50;
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
  const stage = last && STAGES.find((name) => name.startsWith(last.toLowerCase()));
  const staged = stage
    ? bestFits(plain, head!, MOST).map(({ name }): Finding => ({
        group: "Pipelines",
        name: `${name}: ${stage}`,
        href: pipelineHref(name, stage),
      }))
    : [];
  return [...staged, ...bestFits(plain, typed, MOST)].slice(0, MOST);
}

/** Tables and columns of a catalog as findings. */
interface NamesOfCatalog {
  readonly tables: readonly Finding[];
  readonly columns: readonly Finding[];
}

const namesKept = new WeakMap<Catalog, NamesOfCatalog>();

/** The names in a catalog, written out once for as long as it stays the same. */
function namesIn(catalog: Catalog): NamesOfCatalog {
  const known = namesKept.get(catalog);
  if (known) return known;
  const names: NamesOfCatalog = {
    tables: catalog.tables.map(({ schema, table }) => ({
      group: "Tables",
      name: `${schema}.${table}`,
      href: tableHref(schema, table),
    })),
    columns: catalog.tables.flatMap(({ schema, table, columns }) =>
      columns.map(({ name }): Finding => ({
        group: "Columns",
        name: `${name} of ${schema}.${table}`,
        href: tableHref(schema, table),
      })),
    ),
  };
  namesKept.set(catalog, names);
  return names;
}

/** Everything with a name that fits what was typed: commands, areas, pipelines, tables, columns, versions and runs; with nothing typed, where most people go. */
export async function findByName({ store, warehouse }: Context, typed: string): Promise<readonly Finding[]> {
  const { db } = store;
  const fixed = [...bestFits(COMMANDS, typed, MOST), ...bestFits(AREAS, typed, MOST)];
  const readCatalog = (): Promise<Catalog> => offeredTables(warehouse);
  if (typed.trim() === "") {
    // The box was opened: what is typed next shall find a table that a run has just written.
    void catalogWithin(0, readCatalog);
    return [...fixed, ...findPipelines(await listPipelines(db), typed)];
  }
  const [pipelines, catalog, versions, runs] = await Promise.all([
    listPipelines(db),
    catalogWithin(CATALOG_MILLISECONDS, readCatalog),
    findVersions(db, typed, RANKED),
    findRuns(db, typed, RANKED),
  ]);
  const found = (all: readonly Finding[]): readonly Finding[] => bestFits(all, typed, MOST);
  const tables = found(namesIn(catalog).tables);
  const tablesNow =
    tables.length > 0 ? tables : found(namesIn(await catalogWithin(MISSED_MILLISECONDS, readCatalog)).tables);
  return [
    ...fixed,
    ...findPipelines(pipelines, typed),
    ...tablesNow,
    ...found(namesIn(catalog).columns),
    ...found(
      versions.map(({ id, pipeline, number, candidate }) => ({
        group: "Versions",
        name: `${pipeline}, version ${number}: ${candidate}`,
        href: `/models/${id}`,
      })),
    ),
    ...found(
      runs.map(({ id, kind, pipeline, state }) => ({
        group: "Runs",
        name: `${kind} ${pipeline}, ${state}, ${id.slice(0, 8)}`,
        href: `/runs/${id}`,
      })),
    ),
  ];
}
