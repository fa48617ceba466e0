import { describeModel } from "@/core/evaluate/description";
import { summarise } from "@/core/evaluate/truth";
import { factsOf, type Algorithm } from "@/core/learn/algorithms";
import { taskFor } from "@/core/learn/task";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { modelById, serviceHistory } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";
import { truthOfPipeline } from "@/store/truth";
import type { Context } from "../context";
import { parseFile } from "../parse-file";

/** Describes a version in Markdown, from what is on record. Problem: unknown_model. */
export async function descriptionOf(
  context: Context,
  id: number,
): Promise<{ readonly name: string; readonly markdown: string }> {
  const { db } = context.store;
  const model = await modelById(db, id);
  const pipeline = model && (await pipelineById(db, model.pipelineId));
  const version = model && (await versionById(db, model.pipelineVersionId));
  if (!model || !pipeline || !version)
    throw new ProblemError(problem("unknown_model", "Model version not found."));
  const { file } = unwrap(await parseFile(version.text));
  const [history, truth] = await Promise.all([
    serviceHistory(db, pipeline.id),
    truthOfPipeline(db, pipeline.id, "1970-01-01"),
  ]);
  // A change to another version, or to none, ends the time of this one.
  const service = history.flatMap((event, index) => {
    const { at, by, reason } = event;
    if (event.modelId === id) return [{ at, by, reason, what: "put in service" }];
    return history[index + 1]?.modelId === id ? [{ at, by, reason, what: "taken out of service" }] : [];
  });
  const own = truth.filter((day) => day.modelId === id).map((day) => ({ ...day, version: model.number }));
  const apart = model.retiredAt ? "retired" : "a candidate";
  return {
    name: `${pipeline.name}-version-${model.number}`,
    markdown: describeModel({
      file,
      number: model.number,
      candidate: model.candidate,
      learner: factsOf((model.data.algorithm ?? "logistic_regression") as Algorithm).title,
      settings: model.data.settings ?? {},
      runTime: model.runTime,
      trainingRows: model.data.trainingRows,
      leftOut: model.data.leftOut ?? 0,
      holdoutRows: model.data.holdoutRows,
      sources: model.data.sources,
      model: model.model,
      task: taskFor(file.roles.target.kind, model.shape.classes),
      metrics: model.metrics,
      judgement: model.judgement,
      without: model.data.without ?? [],
      note: model.note,
      state: pipeline.inService === id ? "in service" : apart,
      service,
      truth: own.length > 0 ? summarise(own) : undefined,
    }),
  };
}
