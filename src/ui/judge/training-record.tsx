import { formatBytes, formatDuration, formatNumber, formatShare } from "@/core/format/numbers";
import { describeLeaving, type JudgedWith } from "@/core/evaluate/leaving";
import { METRICS } from "@/core/evaluate/metrics";
import { namedSettings, settingName, settingText } from "@/core/format/setting-text";
import type { LearnedPart } from "@/server/learned";
import type { ModelRow } from "@/store/models";
import { moment } from "../basic/format";
import { LearnedTable } from "../basic/learned-table";
import { TrainingChart } from "../charts/training-chart";

/** Where training took place, for versions that do not say what was read. */
const ENGINE_WORDS: Readonly<Record<ModelRow["engine"], string>> = {
  warehouse: "rows stayed in the warehouse for training",
  streaming: "rows streamed to the worker",
};

/** The pass after which training stopped, where passes are chosen among. */
function chosenPass(model: ModelRow["model"]): number | undefined {
  if (model.algorithm === "boosted_trees") return model.rounds.length;
  return model.algorithm === "neural_network" ? model.fit.chosen : undefined;
}

/** How a version came about: what it read, its settings, its passes, its search, time and memory. */
export function TrainingRecord({
  model,
  judgedWith,
  learned,
}: {
  readonly model: ModelRow;
  readonly judgedWith: JudgedWith;
  readonly learned: readonly LearnedPart[];
}) {
  const { data, model: fitted } = model;
  const { passes } = fitted.fit;
  const settings = Object.entries(data.settings ?? {});
  return (
    <section aria-label="Training" className="space-y-5">
      <h2>Training record</h2>
      {passes.length > 0 && <TrainingChart passes={passes} chosen={chosenPass(fitted)} />}
      <dl className="grid max-w-4xl grid-cols-[max-content_1fr] gap-x-6 gap-y-1 text-caption">
        <dt className="text-faded">Engine</dt>
        <dd>
          {data.leaving
            ? describeLeaving(data.leaving, model.engine, fitted.fit.numbersOut, judgedWith)
            : ENGINE_WORDS[model.engine]}
        </dd>
        <dt className="text-faded">Time and memory</dt>
        <dd>
          {model.fitSeconds === null ? "–" : formatDuration(model.fitSeconds * 1000)}
          {data.memory === undefined ? "" : `; worker memory ${formatBytes(data.memory)} at peak`}
        </dd>
        {data.share !== undefined && (
          <>
            <dt className="text-faded">Rows</dt>
            <dd>
              a trial on {formatShare(data.share)} of the training rows
              {model.fitSeconds === null
                ? ""
                : `; all rows take about ${formatDuration((model.fitSeconds * 1000) / data.share)}`}
            </dd>
          </>
        )}
        {settings.length > 0 && (
          <>
            <dt className="text-faded">Settings</dt>
            <dd className="figure">{namedSettings(Object.fromEntries(settings)).join(", ")}</dd>
          </>
        )}
        {data.search && (
          <>
            <dt className="text-faded">Search</dt>
            <dd>
              best of {data.search.trials} combinations:{" "}
              <span className="figure">
                {data.search.choices
                  .map((choice) => `${settingName(choice)} ${settingText(choice.value)}`)
                  .join(", ")}
              </span>
              . Its {METRICS[data.search.metric].title} over the folds was{" "}
              <span className="figure">{formatNumber(data.search.score)}</span>; on rows unseen by the search
              it is <span className="figure">{formatNumber(model.metrics[data.search.metric])}</span>.
            </dd>
          </>
        )}
        <dt className="text-faded">Plan</dt>
        <dd>
          <code title={model.planHash}>{model.planHash.slice(0, 12)}</code>, code version {model.codeVersion}
        </dd>
        {Object.entries(data.fingerprints).map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-faded">Read</dt>
            <dd>
              {name}: {formatNumber(value.rows)} rows
              {value.changedAt ? `, last changed ${moment(value.changedAt)}` : ""}
            </dd>
          </div>
        ))}
      </dl>
      <section>
        <h3 className="mb-1 font-semibold">Learned values</h3>
        <LearnedTable sides={[{ title: "", parts: learned }]} />
      </section>
    </section>
  );
}
