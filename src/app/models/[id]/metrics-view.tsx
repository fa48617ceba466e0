import { predictionDelivery } from "@/core/pipeline/deliveries";
import type { PipelineFile } from "@/core/pipeline/schema";
import { keptCurve } from "@/core/evaluate/kept-curve";
import type { Task } from "@/core/learn/task";
import type { ModelRow } from "@/store/models";
import type { PipelineRow } from "@/store/pipelines";
import { Empty } from "@/ui/basic/empty";
import { BlindPart } from "@/ui/judge/blind-part";
import { ClassCurvesView } from "@/ui/judge/class-curves-view";
import { ClassReportTable } from "@/ui/judge/class-report-table";
import { ClassMatrix } from "@/ui/judge/class-matrix";
import { FigureTable } from "@/ui/judge/figure-table";
import { FigureFacts } from "@/ui/judge/figure-facts";
import { Findings } from "@/ui/judge/findings";
import { ScoreCurves } from "@/ui/judge/score-curves";
import { ThresholdDesk } from "@/ui/judge/threshold-desk";

/** How good a version is: metrics, the leakage guard, and the curves of its threshold and classes. */
export function MetricsView({
  model,
  pipeline,
  task,
  file,
  deliveries,
}: {
  readonly model: ModelRow;
  readonly pipeline: PipelineRow;
  readonly task: Task;
  readonly file: PipelineFile | undefined;
  /** Deliveries of the newest file, with their thresholds. */
  readonly deliveries: readonly { readonly name: string; readonly threshold: number }[];
}) {
  const { metrics, data, judgement } = model;
  const curve = keptCurve(model);
  const without = data.without ?? [];
  return (
    <div className="space-y-8">
      {judgement?.rows === 0 && (
        <Empty title="This version was not evaluated.">
          All rows were used for training, so its quality on unseen rows is unknown. Set a holdout or folds on
          Train.
        </Empty>
      )}
      {judgement && judgement.rows > 0 && (
        <FigureTable
          kind={task.kind}
          figures={judgement.figures}
          intervals={judgement.intervals}
          base={judgement.base}
          folds={judgement.folds}
          training={judgement.training?.figures}
          insideFolds={judgement.insideFolds === true}
          {...(judgement.unweighted ? { unweighted: judgement.unweighted } : {})}
        />
      )}
      {judgement && <FigureFacts task={task} judgement={judgement} weight={file?.roles.weight} />}
      {judgement && (
        <section aria-label="Guard">
          <h2 className="mb-1">Leakage guard</h2>
          <Findings
            findings={judgement.findings}
            pipeline={pipeline.name}
            candidate={model.candidate}
            without={without}
            held={judgement.rows > 0 && judgement.insideFolds !== true}
          />
        </section>
      )}
      {curve && (
        <ThresholdDesk
          curve={curve}
          training={judgement?.training?.curve}
          figures={metrics}
          threshold={(file && predictionDelivery(file.delivery)?.threshold) ?? 0.5}
          pipeline={pipeline.deletedAt === null ? pipeline.name : undefined}
          deliveries={deliveries}
        />
      )}
      {curve && <ScoreCurves curve={curve} />}
      {judgement?.matrix && task.kind === "classes" && (
        <section aria-label="Classes">
          <h2 className="mb-2">Confusion matrix</h2>
          <div className="flex flex-wrap gap-x-10 gap-y-4">
            <ClassMatrix matrix={judgement.matrix} classes={task.classes} />
            <div className="w-[520px]">
              <ClassReportTable matrix={judgement.matrix} classes={task.classes} />
            </div>
          </div>
        </section>
      )}
      {judgement?.classCurves && task.kind === "classes" && (
        <ClassCurvesView curves={judgement.classCurves} classes={task.classes} />
      )}
      {data.blindTable !== undefined && <BlindPart model={model.id} look={model.blind} kind={task.kind} />}
    </div>
  );
}
