import type { Task } from "@/core/learn/task";
import { outputsOf, taskFor } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { outputColumn } from "@/core/plan/score";
import { judgingTableOf, wholeGroup } from "@/core/plan/split";
import { findTable, type CatalogColumn } from "@/core/plan/catalog";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { isHidden } from "@/core/sql/hidden";
import { quoteTable } from "@/core/sql/quote";
import { modelById, type ModelRow } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";
import { readCatalog } from "@/warehouse/catalog";
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
  /** Quoted. */
  readonly table: string;
  /** Columns people know, numbers of the prediction and hidden ones left out. */
  readonly columns: readonly CatalogColumn[];
  /** Numbers of the prediction; versions of the first kind had one, called probability. */
  readonly outputs: readonly string[];
}

/** Opens the judged rows of a version. Problems: unknown_model, holdout_gone. */
export async function openJudged(context: Context, id: number): Promise<JudgedVersion> {
  const { db } = context.store;
  const model = await modelById(db, id);
  const version = model && (await versionById(db, model.pipelineVersionId));
  const pipeline = model && (await pipelineById(db, model.pipelineId));
  if (!model || !version || !pipeline)
    throw new ProblemError(problem("unknown_model", "There is no such model version."));
  const { roles, holdout } = unwrap(await parseFile(version.text)).file;
  const task = taskFor(roles.target.kind, model.shape.classes);
  const place = { schema: context.warehouse.config.scratchSchema, table: model.data.holdoutTable };
  const found = findTable(await readCatalog(context.warehouse), place);
  if (!found)
    throw new ProblemError(
      problem(
        "holdout_gone",
        "The scored holdout of this version is no longer kept.",
        "Train again to get a fresh one.",
      ),
    );
  const names = new Set(found.columns.map((each) => each.name));
  const outputs = names.has(outputColumn(0))
    ? Array.from({ length: outputsOf(task) }, (_, index) => outputColumn(index))
    : ["probability"];
  const texts = new Set((model.shape.texts ?? []).flat());
  return {
    model,
    task,
    pipeline: pipeline.name,
    key: roles.key,
    origin: judgingTableOf({ holdout }),
    group: wholeGroup({ holdout, roles }),
    weight: roles.weight !== undefined && names.has(roles.weight) ? roles.weight : undefined,
    table: quoteTable(place),
    outputs,
    columns: found.columns.filter(
      (each) =>
        !outputs.includes(each.name) &&
        each.name !== TARGET_COLUMN &&
        !isHidden(each.name) &&
        !texts.has(each.name),
    ),
  };
}

/** A column of the judged rows, by its name. */
export function columnOf(judged: JudgedVersion, name: string): CatalogColumn {
  const found = judged.columns.find((each) => each.name === name);
  if (!found)
    throw new ProblemError(
      problem("unknown_column", `The judged rows have no column "${name}".`, "Choose one of those offered."),
    );
  return found;
}
