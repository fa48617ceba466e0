import { unwrap, type Problem } from "@/core/problem";
import { parsePipeline } from "@/core/pipeline/parse";
import { driftOfPipeline } from "@/store/drift";
import { modelById, setInService } from "@/store/models";
import { runById, runRecord } from "@/store/runs";
import { truthOfPipeline } from "@/store/truth";
import type { Warehouse } from "@/warehouse/port/warehouse";
import type { Bench } from "../warehouse";
import type { Operation, RunProblem, ScoringAnswer } from "./engine";

/** More drifts than any case has, and a day before any case. */
const [MOST_RUNS, BEGINNING] = [100, "2000-01-01"];

const problemsOf = (problems: readonly Problem[]): readonly RunProblem[] =>
  problems.map(({ code, severity, message }) => ({ code, severity, message }));

const warningsOf = async (bench: Bench<Warehouse>, runId: string): Promise<readonly string[]> =>
  (await runRecord(bench.context.store.db, runId)).log
    .filter(({ level }) => level === "warning")
    .map(({ message }) => message);

async function score(bench: Bench<Warehouse>, pipeline: string, time: string): Promise<ScoringAnswer> {
  const { id, pipelineId } = await bench.run("score", pipeline, { at: new Date(time) });
  const { db } = bench.context.store;
  const { state, problems, rows } = (await runById(db, id))!;
  const warnings = await warningsOf(bench, id);
  const drift = (await driftOfPipeline(db, pipelineId, MOST_RUNS)).find(({ runId }) => runId === id);
  return { time, state, rows, problems: problemsOf(problems), warnings, drift: drift?.columns ?? [] };
}

/** Trains a pipeline file, puts the version in service and scores at the given times. */
export async function operate(
  bench: Bench<Warehouse>,
  file: string,
  times: readonly string[],
): Promise<Operation> {
  await bench.save(file);
  const { name } = unwrap(parsePipeline(file)).file;
  const trained = await bench.run("train", name);
  const training = {
    state: trained.state,
    problems: problemsOf(trained.problems),
    warnings: await warningsOf(bench, trained.id),
  };
  if (trained.modelId === null) return { training };
  const { db } = bench.context.store;
  const { judgement, data, pipelineId, id } = (await modelById(db, trained.modelId))!;
  await setInService(db, pipelineId, id);
  const runs: ScoringAnswer[] = [];
  for (const time of times) runs.push(await score(bench, name, time));
  const truth = (await truthOfPipeline(db, pipelineId, BEGINNING)).map(
    ({ day, predicted, answered, figures, answers }) => ({ day, predicted, answered, figures, answers }),
  );
  return { training, findings: judgement?.findings ?? [], spreads: data.spreads ?? [], runs, truth };
}
