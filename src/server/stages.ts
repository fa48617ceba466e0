import { formatCount } from "@/core/format/numbers";
import { cache } from "react";
import { listModels } from "@/store/models";
import { listVersions } from "@/store/pipelines";
import { appContext } from "./context";
import { pipelineForPage, type OpenedPipeline } from "./pipelines";

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
      versions: Awaited<ReturnType<typeof listVersions>>;
    }
  > => {
    const opened = await pipelineForPage(name);
    const { store } = await appContext();
    const [models, versions] = await Promise.all([
      listModels(store.db, opened.pipeline.id),
      listVersions(store.db, opened.pipeline.id),
    ]);
    return { ...opened, models, versions };
  },
);

/** Which stages of a pipeline are settled, in its own words. */
export async function stagesOf(name: string): Promise<readonly Stage[]> {
  const { pipeline, checked, models, versions } = await pageOf(name);
  const file = checked.ok ? checked.value.file : undefined;
  const current = models.find((each) => each.id === pipeline.inService);
  const errors = checked.ok ? 0 : checked.problems.filter((each) => each.severity === "error").length;
  return [
    {
      name: "Brief",
      settled: file?.brief?.question !== undefined,
      says: file?.brief?.question ? "question written" : "no question yet",
    },
    {
      name: "Braid",
      settled: checked.ok,
      says: checked.ok
        ? formatCount(
            checked.value.strands.reduce((sum, each) => sum + each.steps.length, 0),
            "step",
          )
        : formatCount(errors, "error"),
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
