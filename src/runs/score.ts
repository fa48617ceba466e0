import { formatCount, formatNumber } from "@/core/format/numbers";
import { brokenSources } from "@/core/plan/contract";
import { weightiestReasons } from "@/core/explain/reasons";
import { columnsRead } from "@/core/learn/model-kinds";
import type { FeatureRow } from "@/core/learn/task";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { deliveryNamed, predictionDelivery } from "@/core/pipeline/deliveries";
import { fitsStatement } from "@/core/learn/scoring";
import { taskOf } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { inputRelation, scoreRelation } from "@/core/plan/score";
import { numberedRows } from "@/core/plan/score-pieces";
import { outputColumns, type Relation, type TableReference } from "@/core/relation/relation";
import { writeTableName } from "@/core/pipeline/table-name";
import { freshRows, routed, tablesOf } from "@/core/plan/deliver";
import { ANSWER, onDemandDelivery, otherSources, tellAnswers, withAnswer } from "@/core/plan/on-demand";
import { cast, integer, text as textLiteral } from "@/core/expression/ast";
import { sha256 } from "@/core/hash";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { modelById, type ModelRow } from "@/store/models";
import { pipelineById, versionById } from "@/store/pipelines";
import { recordFile, type RunEnd } from "@/store/runs";
import type { DeliveryRun } from "@/warehouse/port/landing";
import type { Move } from "@/warehouse/move";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "./context";
import { checkAndLand, landedEarlier, newerByOf } from "./landing";
import { measureDrift } from "./drift";
import { errorText } from "./failure";
import type { RunRecorder } from "./recorder";
import { dropScratch, KEPT, scratchTable, sealedTable, sealTable, sweep } from "./scratch";
import { scoreInPieces } from "./training/scored-in-pieces";
import { scoreHere } from "./training/scored-rows";
import { handOver } from "./outbox";
import { leftOutBySteps, measureAnswers, planOnDemand } from "./on-demand-rows";
import { checkRequirements, checkRows } from "./requirements";
import { measureTruth } from "./truth";
import { judgeTargets } from "./targets";
import { planOfVersion } from "./version-plan";
import { parseFile } from "./parse-file";

/**
 * A scoring run: checks the contract, scores in the warehouse into a staged table, checks that, and moves it into the
 * prediction table together with the ledger entry. Uses the file and the learned values of the version in service.
 */
export async function scoreRun(
  context: Context,
  recorder: RunRecorder,
  session: WarehouseSession,
): Promise<RunEnd> {
  const { run } = recorder;
  const { db } = context.store;
  const { onDemand } = run.options;
  const work = { recorder, session };
  await sweep(session, context, run.id);
  // Once the staged rows are complete, a failure leaves them there: the next attempt goes on from them.
  let sealed = false;
  let ended = false;
  try {
    const pipeline = (await pipelineById(db, run.pipelineId))!;
    const { model, version } = await recorder.doing("find the version in service", async () => {
      const wanted = run.options.model ?? pipeline.inService;
      const found = wanted ? await modelById(db, wanted) : undefined;
      const trainedFrom = found && (await versionById(db, found.pipelineVersionId));
      if (!found || !trainedFrom)
        throw new ProblemError(
          problem(
            "nothing_in_service",
            "No model version of this pipeline is in service.",
            "Train, check the metrics, and put the version in service.",
          ),
        );
      return { value: { model: found, version: trainedFrom }, detail: `version ${found.number}` };
    });
    const ordered = await versionById(db, run.pipelineVersionId);
    // The file the version was trained from decides what is computed, not a newer edit. Deliveries may be newer, as long as the rest is the same.
    const followed = ordered?.planHash === model.planHash ? ordered : version;
    const { text } = followed;
    if (ordered && followed.id !== ordered.id) {
      await recordFile(db, run.id, followed.id);
      await recorder.say(
        "info",
        `File version ${ordered.number} prepares rows in another way than those that version ${model.number} was trained on, so this run follows file version ${followed.number}. The deliveries of file version ${ordered.number} wait until a version trained from it is in service.`,
      );
    }
    const parsed = unwrap(await parseFile(text));
    const delivery = onDemand
      ? onDemandDelivery(onDemand, predictionDelivery(parsed.file.delivery)?.threshold ?? 0.5)
      : deliveryNamed(parsed.file.delivery, run.options.delivery);
    if (!delivery)
      throw new ProblemError(
        problem(
          "no_delivery",
          `The file that version ${model.number} was trained from has no delivery${run.options.delivery === undefined ? "" : ` "${run.options.delivery}"`}.`,
          "Add one under delivery; retrain if more than that has changed since.",
        ),
      );
    const tables = tablesOf(delivery);
    const landing: DeliveryRun = {
      run: run.id,
      pipeline: pipeline.name,
      formerNames: pipeline.formerNames,
      delivery: delivery.name,
      modelVersion: model.number,
      runTime: run.runTime.toISOString(),
    };
    const earlier = await landedEarlier(work, landing);
    // What is caught up is no news.
    const told = (rows: number): Promise<void> =>
      run.backfillId !== null
        ? Promise.resolve()
        : handOver(context, {
            run: run.id,
            pipeline: pipeline.name,
            delivery,
            modelVersion: model.number,
            runTime: run.runTime,
            rows,
          });
    if (earlier !== undefined) {
      await told(earlier);
      return {
        state: "done",
        rows: earlier,
        modelId: model.id,
        outcome: `${formatNumber(earlier)} rows in ${delivery.table}, landed by an earlier attempt`,
      };
    }
    const { plan, answered } = await recorder.doing("check the contract: sources", async () => {
      const sources = onDemand ? otherSources(parsed.file, model.data.sources) : model.data.sources;
      const broken = brokenSources(sources, await context.warehouse.catalog.read());
      if (broken.length > 0) throw new ProblemError(...broken);
      const found = onDemand
        ? await planOnDemand(context, recorder, { model, text, onDemand })
        : { plan: await planOfVersion(context, model, { text }), answered: false };
      return { value: found, detail: `${sources.length} tables as in training` };
    });
    await checkRequirements({ plan, recorder, session });
    await checkRequirements({ plan, recorder, session }, model.learned, true);
    await checkRows({ plan, recorder, session }, model, delivery, onDemand !== undefined);
    if (!onDemand) {
      const scratch = scratchTable(context.warehouse, "outputs", run.id, run.attempt, "columns");
      await judgeTargets({ plan, recorder, session, scratch }, model, delivery, tables);
    }
    const madeFrom = sha256(JSON.stringify([model.id, text, delivery]));
    const kept = await sealedTable(session, context, run.id, { purpose: "stage", madeFrom });
    const stage = kept?.table ?? scratchTable(context.warehouse, "stage", run.id, run.attempt);
    const scoredAt = new Date().toISOString();
    const newerBy = newerByOf(plan, delivery);
    const fresh = {
      after: newerBy && (await session.landing.newest(landing, newerBy)),
      tables: delivery.rows === "not_yet_predicted" ? await session.landing.tablesThere(tables) : [],
    };
    const narrow = (rows: Relation): Relation =>
      freshRows(plan, delivery, answered ? withAnswer(plan, rows) : rows, fresh);
    const columns = answered ? [...delivery.columns, ANSWER] : delivery.columns;
    const made = await recorder.doing("score into a staged table", async () => {
      if (kept) return { value: kept.rows, rows: kept.rows, detail: KEPT };
      const from =
        fitsStatement(model.model) && delivery.reasons === 0
          ? undefined
          : await scoreByTables(
              { context, recorder, session, plan },
              model,
              { columns, reasons: delivery.reasons },
              narrow,
            );
      const relation = scoreRelation(plan, {
        learned: model.learned,
        shape: model.shape,
        model: model.model,
        threshold: delivery.threshold,
        columns,
        narrow,
        ...(from ? { from, reasons: delivery.reasons > 0 } : {}),
        stamps: [
          { name: "model_version", expression: integer(model.number) },
          { name: "run_id", expression: cast(textLiteral(run.id), "uuid") },
          { name: "run_time", expression: cast(textLiteral(run.runTime.toISOString()), "timestamptz") },
          { name: "scored_at", expression: cast(textLiteral(scoredAt), "timestamptz") },
        ],
      });
      const rows = await session.materialize(
        routed(plan, delivery, answered ? tellAnswers(plan, relation) : relation),
        stage,
        "staged predictions",
      );
      return { value: rows, rows };
    });
    if (!kept) await sealTable(context, run.id, stage, { purpose: "stage", madeFrom, rows: made });
    sealed = true;
    const leftOut = onDemand ? await leftOutBySteps(session, onDemand.table, made) : "";
    const answers = answered
      ? await recorder.doing("compare the predictions with the targets", () =>
          measureAnswers(session, stage, plan),
        )
      : undefined;
    // Rows that somebody chose say nothing about the rows of every night.
    if (!onDemand)
      await recorder.doing("measure input drift", async () => {
        const found = await measureDrift(context, session, {
          plan,
          model,
          stage,
          task: taskOf(plan, model.shape),
          run,
          delivery,
        });
        return { value: undefined, detail: found };
      });
    const { key } = plan.file.roles;
    const move: Move = {
      stage,
      key,
      mode: delivery.mode,
      partition: delivery.partition,
      tables,
      newerBy,
      onlyNew: delivery.rows === "not_yet_predicted",
    };
    const comment = `Predictions of the pipeline ${landing.pipeline}, delivery "${delivery.name}"${parsed.file.brief?.question ? `: ${parsed.file.brief.question}` : ""}`;
    const { staged, unanswered, landed } = await checkAndLand(work, move, landing, {
      of: "predictions",
      comment,
      leavesOut: delivery.contract.unanswered === "leave_out",
    });
    const withoutAnswer =
      unanswered === 0 ? "" : `; ${formatCount(unanswered, "row")} could not be predicted`;
    await told(landed.rows);
    // The rows have landed: what goes wrong from here on, and a cancel too, must not say that they have not.
    const afterwards = (error: unknown): void => {
      if (!recorder.cancelled) throw error;
    };
    if (!onDemand)
      await recorder
        .doing("compare earlier predictions with actuals", async () => {
          const found = await measureTruth(context, session, { plan, model, run, delivery }).catch(
            (error: unknown) => `not measured: ${errorText(error)}`,
          );
          return { value: undefined, detail: found };
        })
        .catch(afterwards);
    ended = true;
    const outrun = landed.before ? 0 : staged - landed.rows;
    if (outrun > 0)
      await recorder.say(
        "info",
        `${formatNumber(outrun)} rows were unchanged: another run has already predicted them.`,
      );
    return {
      state: "done",
      rows: landed.rows,
      modelId: model.id,
      outcome: `${formatNumber(landed.rows)} rows into ${tables.length === 1 ? writeTableName(tables[0]!) : `${tables.length} tables`}, version ${model.number}${outrun > 0 ? `; ${formatNumber(outrun)} were there already` : ""}${withoutAnswer}${leftOut}${recorder.cancelled ? "; cancelled after they had landed" : ""}`,
      ...(answers === undefined ? {} : { answers }),
    };
  } finally {
    await dropScratch(session, context, run.id, {
      keepSealed: sealed && !ended && !recorder.cancelled,
    }).catch(() => undefined);
  }
}

/**
 * Rows to score with the numbers of their predictions, in a table: for a model too large for a statement, and for reasons. Reasons are
 * made here, page by page, as are the predictions of a large model that was trained here; one trained in the warehouse stays there.
 */
async function scoreByTables(
  work: {
    readonly context: Context;
    readonly recorder: RunRecorder;
    readonly session: WarehouseSession;
    readonly plan: CheckedPlan;
  },
  { model, learned, shape, judgement }: ModelRow,
  { columns, reasons }: Pick<Delivery, "columns" | "reasons">,
  narrow: (rows: Relation) => Relation,
): Promise<TableReference> {
  const { context, recorder, session, plan } = work;
  const { run } = recorder;
  const [inputs, outputs] = (["inputs", "outputs"] as const).map((purpose) =>
    scratchTable(context.warehouse, purpose, run.id, run.attempt),
  ) as [TableReference, TableReference];
  const relation = inputRelation(plan, learned, model, [...plan.file.roles.key, ...columns], narrow);
  const stays = reasons === 0 && model.fit.engine === "warehouse";
  await session.materialize(numberedRows(relation), inputs, stays ? "rows to score" : "rows to score here");
  if (stays) {
    await scoreInPieces({ session, pace: recorder }, { inputs, outputs }, model, outputColumns(relation));
    return outputs;
  }
  const read = columnsRead(model);
  const background = judgement?.background ?? { means: {}, usual: {} };
  const explain = (row: FeatureRow, prediction: ArrayLike<number>) =>
    weightiestReasons(model, row, prediction, background, reasons);
  await scoreHere(
    session,
    {
      inputs,
      columns: outputColumns(relation),
      outputs,
      pace: recorder,
      explain: reasons === 0 ? undefined : explain,
    },
    model,
    { task: taskOf(plan, shape), numbers: [...read.numbers], categories: [...read.categories] },
  );
  return outputs;
}
