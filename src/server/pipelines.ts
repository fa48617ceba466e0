import { notFound, redirect } from "next/navigation";
import type { CheckedPlan } from "@/core/plan/plan";
import { failure, type Result } from "@/core/problem";
import { isConnectionLoss, problemsOf } from "@/runs/failure";
import { checkText } from "@/runs/check-file";
import { findPipeline, newestVersion, type PipelineRow, type PipelineVersionRow } from "@/store/pipelines";
import { holderOfName } from "@/store/pipeline-lives";
import { nameInput } from "./answer/inputs";
import { appContext } from "./context";

export interface OpenedPipeline {
  readonly pipeline: PipelineRow;
  readonly version: PipelineVersionRow;
  readonly checked: Result<CheckedPlan>;
}

/** A pipeline in its newest version, checked against today's catalog. */
export async function openPipeline(pipeline: PipelineRow): Promise<OpenedPipeline> {
  const { store, warehouse } = await appContext();
  const version = await newestVersion(store.db, pipeline.id);
  if (!version) notFound();
  // What we keep of a pipeline can be looked at while the warehouse is away.
  const checked = await checkText(version.text, warehouse).catch((error: unknown) => {
    if (isConnectionLoss(error)) return failure(...problemsOf(error));
    throw error;
  });
  return { pipeline, version, checked };
}

/** A pipeline by its name in a URL; a name that does not exist shows the page for that. */
export async function pipelineForPage(name: string): Promise<PipelineRow> {
  const { store } = await appContext();
  const read = nameInput.safeParse(decodeURIComponent(name));
  const found = read.success ? await findPipeline(store.db, read.data) : undefined;
  if (found) return found;
  const renamed = read.success && (await holderOfName(store.db, read.data));
  if (renamed) redirect(`/pipelines/${encodeURIComponent(renamed.name)}/braid`);
  notFound();
}
