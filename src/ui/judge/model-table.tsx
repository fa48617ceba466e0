import { formatNumber } from "@/core/format/numbers";
import type { ModelSummary } from "@/store/models";
import type { PipelineRow } from "@/store/pipelines";
import { ServiceButton } from "../deliver/service-button";
import { moment } from "../basic/format";
import { headline } from "./headline";
import { PageLink } from "../basic/page-link";
import { PipelineName } from "../basic/pipeline-name";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

/** Model versions of all pipelines, newest first; put in service or taken out from here. */
export function ModelTable({
  models,
  pipelines,
}: {
  readonly models: readonly ModelSummary[];
  readonly pipelines: readonly PipelineRow[];
}) {
  return (
    <Sheet>
      <thead>
        <tr>
          <th>Pipeline</th>
          <th>Version</th>
          <th>Candidate</th>
          <th>On the holdout</th>
          <th className="number">Training rows</th>
          <th>Trained as of</th>
          <HiddenHead name="State" />
        </tr>
      </thead>
      <tbody>
        {models.map((model) => {
          const pipeline = pipelines.find((pipeline) => pipeline.id === model.pipelineId);
          const inService = pipeline?.inService === model.id;
          return (
            <tr key={model.id}>
              <td>{pipeline && <PipelineName pipeline={pipeline} stage="compare" />}</td>
              <td className="whitespace-nowrap">
                <PageLink className="font-medium" href={`/models/${model.id}`}>
                  version {model.number}
                </PageLink>
                {inService && (
                  <span className="ml-2 border-b-2 border-moss text-caption text-moss">in service</span>
                )}
              </td>
              <td>{model.candidate}</td>
              <td className="figure">{headline(model.metrics)}</td>
              <td className="number">{formatNumber(model.data.trainingRows)}</td>
              <td className="whitespace-nowrap">
                <span title={`Trained ${moment(model.createdAt)} (computer’s clock)`}>
                  {moment(model.runTime)}
                </span>
              </td>
              <td className="text-right">
                {pipeline?.deletedAt === null && (
                  <ServiceButton model={model.id} version={model.number} inService={inService} quiet />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}
