import { deliveryNamed } from "@/core/pipeline/deliveries";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { versionById, type PipelineVersionRow } from "@/store/pipelines";
import type { RunRow } from "@/store/runs";
import type { Context } from "./context";
import { parseFile } from "./parse-file";

/** The delivery that a run serves, when it is one of features. */
export interface FeatureDelivery {
  readonly delivery: Delivery;
  readonly version: PipelineVersionRow;
}

/** The delivery of features that a scoring run serves; undefined where it delivers predictions. */
export async function featureDelivery(
  { store }: Context,
  run: Pick<RunRow, "pipelineVersionId" | "options">,
): Promise<FeatureDelivery | undefined> {
  if (run.options.onDemand) return undefined;
  const version = await versionById(store.db, run.pipelineVersionId);
  const parsed = version && (await parseFile(version.text));
  if (!version || !parsed?.ok) return undefined;
  const delivery = deliveryNamed(parsed.value.file.delivery, run.options.delivery);
  return delivery?.of === "features" ? { delivery, version } : undefined;
}
