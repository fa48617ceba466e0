import { formatCount } from "@/core/format/numbers";
import { cache } from "react";
import { listModels } from "@/store/models";
import type { Problem } from "@/core/problem";
import { openDraft, type OpenDraft } from "@/runs/draft/survey";
import { draftOf } from "@/store/drafts";
import { listVersions } from "@/store/pipelines";
import { appContext } from "./context";
import { openPipeline, pipelineForPage, type OpenedPipeline } from "./pipelines";

/** One stage of a pipeline's own line, and whether it is settled. */
export interface Stage {
  readonly name: string;
  readonly settled: boolean;
  /** What is settled, or what is missing, in a few words. */
  readonly says: string;
}

/** One look at a pipeline per page, shared by its layout and its stage. */
export const pageOf = cache(
  async (
    name: string,
  ): Promise<
    OpenedPipeline & {
      models: Awaited<ReturnType<typeof listModels>>;
      /** The draft, where it says something else than the newest version. */
      draft: OpenDraft | undefined;
      versions: Awaited<ReturnType<typeof listVersions>>;
    }
  > => {
    const pipeline = await pipelineForPage(name);
    const { store, warehouse } = await appContext();
    const [opened, models, versions, kept] = await Promise.all([
      openPipeline(pipeline),
      listModels(store.db, pipeline.id),
      listVersions(store.db, pipeline.id),
      draftOf(store.db, pipeline.id),
    ]);
    const unsaved = kept && kept.text !== opened.version.text ? kept.text : undefined;
    // Without the warehouse only what is saved can be told.
    const draft =
      unsaved === undefined ? undefined : await openDraft(unsaved, warehouse).catch(() => undefined);
    return { ...opened, models, versions, draft };
  },
);

/** What is wrong with the draft, or where there is none with what is saved. */
const problemsOfText = (
  checked: OpenedPipeline["checked"],
  draft: OpenDraft | undefined,
): readonly Problem[] => {
  if (draft) return draft.survey.problems;
  return checked.ok ? [] : checked.problems;
};

/** Which stages of a pipeline are settled, in its own words. */
export async function stagesOf(name: string): Promise<readonly Stage[]> {
  const { pipeline, checked, models, versions, draft } = await pageOf(name);
  const saved = checked.ok ? checked.value : undefined;
  const plan = draft ? draft.plan : saved;
  const steps = (plan?.strands ?? []).reduce((sum, strand) => sum + strand.steps.length, 0);
  const file = plan?.file;
  const current = models.find((model) => model.id === pipeline.inService);
  const errors = problemsOfText(checked, draft).filter((problem) => problem.severity === "error").length;
  return [
    {
      name: "Brief",
      settled: file?.brief?.question !== undefined,
      says: file?.brief?.question ? "question written" : "no question yet",
    },
    {
      name: "Braid",
      settled: errors === 0,
      says: `${errors === 0 ? formatCount(steps, "step") : formatCount(errors, "error")}${draft ? ", not saved" : ""}`,
    },
    {
      name: "Train",
      settled: models.length > 0,
      says: models.length > 0 ? `version ${models[0]!.number} newest` : "not trained",
    },
    {
      name: "Compare",
      settled: current !== undefined,
      says: current ? `version ${current.number} in service` : formatCount(models.length, "version"),
    },
    {
      name: "Deliver",
      settled: (file?.delivery.length ?? 0) > 0 && current !== undefined,
      says: file
        ? `${file.delivery.length} deliver${file.delivery.length === 1 ? "y" : "ies"}, ${formatCount(file.schedules.length, "schedule")}`
        : "–",
    },
    {
      name: "History",
      settled: true,
      says: `${formatCount(versions.length, "version")} of the file`,
    },
  ];
}
