import { partsToSee, tableOfPart, type JudgedPart } from "@/core/evaluate/judged-part";
import type { Task } from "@/core/learn/task";
import { taskFor } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { outputColumn, outputNames } from "@/core/plan/score";
import { judgingTableOf, wholeGroup } from "@/core/plan/split";
import { findTable, type CatalogColumn } from "@/core/plan/catalog";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { isHidden } from "@/core/names/hidden";
import type { TableReference } from "@/core/relation/relation";
import { modelById, type ModelRow } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";
import type { Context } from "../context";
import { parseFile } from "../parse-file";

/** A version with its file and the table of its judged rows. */
export interface JudgedVersion {
  readonly model: ModelRow;
  readonly pipeline: string;
  readonly task: Task;
  readonly key: readonly string[];
  /** The table whose rows judged, where they are not rows of the main strand. */
  readonly origin: string | undefined;
  /** Column by which rows are drawn together for intervals. */
  readonly group: string | undefined;
  /** Column that says how much a row counts. */
  readonly weight: string | undefined;
  /** Where the rows are. */
  readonly place: TableReference;
  /** Columns people know, numbers of the prediction and hidden ones left out. */
  readonly columns: readonly CatalogColumn[];
  /** Columns with the values that others had before steps changed them, by the name of the other. */
  readonly originals: ReadonlyMap<string, CatalogColumn>;
  /** Numbers of the prediction; versions of the first kind had one, called probability. */
  readonly outputs: readonly string[];
}

/** What a part is called where it is missing. */
const PART_NAMES: Readonly<Record<JudgedPart, string>> = {
  holdout: "The scored holdout",
  training: "The table of scored training rows",
  blind: "The scored blind holdout",
};

/**
 * Opens the rows of a version that were scored when it was trained: those that judge, where there are any, unless other ones are
 * asked for. Problems: unknown_model, holdout_gone, blind_closed.
 */
export async function openJudged(context: Context, id: number, wanted?: JudgedPart): Promise<JudgedVersion> {
  const { db } = context.store;
  const model = await modelById(db, id);
  const version = model && (await versionById(db, model.pipelineVersionId));
  const pipeline = model && (await pipelineById(db, model.pipelineId));
  if (!model || !version || !pipeline)
    throw new ProblemError(problem("unknown_model", "Model version not found."));
  const { roles, holdout } = unwrap(await parseFile(version.text)).file;
  const task = taskFor(roles.target.kind, model.shape.classes);
  const part = wanted ?? partsToSee(model.data, false)[0] ?? "holdout";
  if (part === "blind" && !model.blind)
    throw new ProblemError(
      problem(
        "blind_closed",
        "The blind holdout of this version is not open.",
        "Open it on the version's page, under Metrics.",
      ),
    );
  const place = {
    schema: context.warehouse.config.scratchSchema,
    table: tableOfPart(model.data, part) ?? "",
  };
  const found = findTable(await context.warehouse.catalog.read(), place);
  if (!found)
    throw new ProblemError(
      problem(
        "holdout_gone",
        `${PART_NAMES[part]} of this version is no longer stored.`,
        "Retrain to create a new one.",
      ),
    );
  const names = new Set(found.columns.map((column) => column.name));
  const outputs = names.has(outputColumn(0)) ? outputNames(task) : ["probability"];
  const texts = new Set((model.shape.texts ?? []).flat());
  const originals = (model.data.originals ?? []).flatMap(({ column, copy }) => {
    const kept = found.columns.find(({ name }) => name === copy);
    return kept ? [[column, kept] as const] : [];
  });
  return {
    originals: new Map(originals),
    model,
    task,
    pipeline: pipeline.name,
    key: roles.key,
    origin: judgingTableOf({ holdout }),
    group: wholeGroup({ holdout, roles }),
    weight: roles.weight !== undefined && names.has(roles.weight) ? roles.weight : undefined,
    place,
    outputs,
    columns: found.columns.filter(
      (column) =>
        !outputs.includes(column.name) &&
        column.name !== TARGET_COLUMN &&
        !isHidden(column.name) &&
        !texts.has(column.name),
    ),
  };
}

/** The column of the judged rows that holds what a column was before steps changed it; of one that none changed, the column itself. */
export function columnOf(judged: JudgedVersion, name: string): CatalogColumn {
  const found = judged.originals.get(name) ?? judged.columns.find((column) => column.name === name);
  if (!found)
    throw new ProblemError(
      problem("unknown_column", `The evaluated rows have no column "${name}".`, "Choose one from the list."),
    );
  return found;
}
