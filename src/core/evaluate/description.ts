import { valuesOf, type Scalar } from "../expression/has-value";
import { formatNumber, formatShare } from "../format/numbers";
import { namedSettings } from "../format/setting-text";
import { columnsRead } from "../learn/model-kinds";
import type { Model } from "../learn/model";
import type { PipelineFile } from "../pipeline/schema";
import { writeTableName } from "../pipeline/table-name";
import type { SourceUse } from "../plan/plan";
import type { Intervals } from "./bootstrap";
import type { Judgement } from "./judgement";
import { TARGET_WORDS, type Task } from "../learn/task";
import { leaksAmong } from "../guard/findings";
import { formatFigure, noteSentences } from "./figure-notes";
import { METRICS, type Figures, type MetricName } from "./metrics";

/** All that is told of a version to people who never open the application. */
export interface Described {
  readonly file: PipelineFile;
  readonly number: number;
  readonly candidate: string;
  readonly learner: string;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly runTime: Date;
  readonly trainingRows: number;
  /** Rows whose answer is neither positive nor negative; 0 where all answers count. */
  readonly leftOut: number;
  readonly holdoutRows: number;
  readonly sources: readonly SourceUse[];
  readonly model: Model;
  readonly task: Task;
  readonly metrics: Figures;
  readonly judgement: Judgement | null;
  readonly without: readonly string[];
  readonly state: string;
  /** Who put it in service when, and why; newest first. */
  readonly service: readonly {
    readonly at: Date;
    readonly by: string | null;
    readonly reason: string | null;
    readonly what: string;
  }[];
  /** How past predictions turned out, once answers were there. */
  readonly truth: { readonly answered: number; readonly figures: Figures } | undefined;
  readonly note: string | null;
}

/** User text in a line of Markdown: nothing in it is markup. */
const plain = (text: string): string =>
  text
    .replaceAll(/\s+/g, " ")
    .replaceAll("&", "&amp;")
    .replaceAll("<", "&lt;")
    .replaceAll(/([\\`*_[\]|#])/g, "\\$1");
const day = (at: Date): string => at.toISOString().slice(0, 10);
const rows = (value: number): string => formatNumber(value);

function table(head: readonly string[], lines: readonly (readonly string[])[]): readonly string[] {
  return lines.length === 0
    ? []
    : [
        `| ${head.join(" | ")} |`,
        `|${head.map(() => "---|").join("")}`,
        ...lines.map((line) => `| ${line.join(" | ")} |`),
        "",
      ];
}

const between = (intervals: Intervals | undefined, name: MetricName): string => {
  const found = intervals?.[name];
  return found ? `${formatNumber(found[0])} to ${formatNumber(found[1])}` : "–";
};

/** What kind of target it is, and for yes and no which values are on which side, where the file names them. */
function targetWords({ kind, positive, negative }: PipelineFile["roles"]["target"]): string {
  const named = (values: readonly Scalar[]): string =>
    values.map((value) => plain(String(value))).join(" or ");
  const positives = valuesOf(positive);
  if (kind !== "binary" || positives.length === 0) return TARGET_WORDS[kind];
  return `yes: ${named(positives)}; no: ${negative === undefined ? "any other value" : named(valuesOf(negative))}`;
}

function purpose({ file }: Described): readonly string[] {
  const { brief, roles } = file;
  return [
    "## Purpose",
    "",
    ...(brief?.question ? [`**${plain(brief.question)}**`, ""] : []),
    `- It predicts \`${roles.target.column}\` (${targetWords(roles.target)}), for rows identified by ${roles.key.map((column) => `\`${column}\``).join(", ")}.`,
    ...(brief?.row ? [`- One row is: ${plain(brief.row)}`] : []),
    ...(brief?.moment ? [`- Time of prediction: ${plain(brief.moment.when)}`] : []),
    ...(brief?.users ? [`- Users: ${plain(brief.users)}`] : []),
    "",
  ];
}

/** Which rows judged it, in words. */
function judgedOn({ file: { holdout, roles }, holdoutRows, judgement }: Described): string {
  const group = `\`${roles.group ?? ""}\``;
  const kept: Readonly<Record<Exclude<typeof holdout.by, "none">, string>> = {
    key: `${formatShare(holdout.share)} of the rows`,
    stratified: `${formatShare(holdout.share)} of the rows, stratified by class`,
    group: `${formatShare(holdout.share)} of the groups by ${group}`,
    time: `rows from ${holdout.from ?? "a time"} on`,
    named: `rows whose ${group} is ${(holdout.groups ?? []).map((name) => plain(String(name))).join(" or ")}`,
    condition: `rows for which ${plain(holdout.where ?? "")}`,
    table: `those of ${plain(holdout.table ?? "")}`,
  };
  if (holdout.by !== "none")
    return `${rows(holdoutRows)} more, ${kept[holdout.by]}, were held out to evaluate it`;
  return judgement?.insideFolds
    ? `each was evaluated by a model trained on the other folds, and the final model was trained on all ${rows(holdoutRows)} of these`
    : "none were held out, so its quality is unknown";
}

function data(described: Described): readonly string[] {
  const { file, sources, runTime, trainingRows, leftOut } = described;
  return [
    "## Data",
    "",
    `It was trained on ${rows(trainingRows)} rows as of ${day(runTime)}; ${judgedOn(described)}.${leftOut === 0 ? "" : ` Left out: ${rows(leftOut)} rows whose target is neither positive nor negative.`}`,
    "",
    ...table(
      ["Source", "Columns read"],
      sources.map((source) => [
        plain(writeTableName(source)),
        source.columns.map((column) => plain(column.name)).join(", "),
      ]),
    ),
    ...(file.roles.exclude.length > 0
      ? [
          "Excluded on purpose:",
          "",
          ...file.roles.exclude.map((exclusion) => `- \`${exclusion.column}\`: ${plain(exclusion.because)}`),
          "",
        ]
      : []),
  ];
}

function figures({ metrics, judgement, file, task, truth }: Described): readonly string[] {
  const names = Object.keys(metrics) as MetricName[];
  const { success } = file.brief ?? {};
  const reached = success ? metrics[success.metric] : undefined;
  const met =
    typeof reached === "number" &&
    success !== undefined &&
    (success.at_least === undefined || reached >= success.at_least) &&
    (success.at_most === undefined || reached <= success.at_most);
  const notes = judgement
    ? [
        ...noteSentences(task, judgement),
        ...(judgement.noIntervals ? [`No intervals: ${judgement.noIntervals}`] : []),
        ...(judgement.unweighted
          ? [
              `Rows are weighted by \`${file.roles.weight ?? ""}\`. Unweighted: ${names.map((name) => `${METRICS[name].title} ${formatFigure(name, judgement.unweighted?.[name])}`).join(", ")}.`,
            ]
          : []),
      ]
    : [];
  return [
    "## Metrics",
    "",
    ...table(
      [
        judgement?.insideFolds ? "Cross-validation" : "On the holdout",
        "Metric",
        "95 % interval",
        "Base rate",
      ],
      names.map((name) => [
        METRICS[name].title,
        formatFigure(name, metrics[name]),
        between(judgement?.intervals, name),
        formatFigure(name, judgement?.base[name]),
      ]),
    ),
    ...(notes.length > 0 ? [...notes, ""] : []),
    ...(success
      ? [
          `The success criterion, ${METRICS[success.metric].title} ${success.at_least === undefined ? `at most ${success.at_most ?? ""}` : `at least ${success.at_least}`}, is ${outcomeOf(met, leaksAmong(judgement?.findings ?? []).length > 0)}.`,
          "",
        ]
      : []),
    ...(truth && truth.answered > 0
      ? [
          `Of its delivered predictions, ${rows(truth.answered)} have an actual value by now: ${(Object.entries(truth.figures) as [MetricName, number | null][]).map(([name, value]) => `${METRICS[name].title} ${formatFigure(name, value)}`).join(", ")}.`,
          "",
        ]
      : []),
  ];
}

function outcomeOf(met: boolean, leaks: boolean): string {
  if (!met) return "not met";
  return leaks ? "met, but the guard flagged possible leakage" : "met";
}

function features({ model, judgement }: Described): readonly string[] {
  const read = columnsRead(model);
  const worth = new Map((judgement?.importance ?? []).map((feature) => [feature.column, feature.worse]));
  const names = [...read.numbers, ...read.categories].sort(
    (left, right) => (worth.get(right) ?? 0) - (worth.get(left) ?? 0),
  );
  const of = judgement
    ? `${METRICS[judgement.importanceOf.metric].title} lost when its values are shuffled`
    : "Weight";
  const measured = judgement?.importance.length ?? names.length;
  return [
    "## Features",
    "",
    ...(measured < names.length
      ? [
          `Of ${formatNumber(names.length)} features the ${formatNumber(measured)} that change predictions most were measured; the others were not.`,
          "",
        ]
      : []),
    ...table(
      ["Feature", "Kind", of],
      names.map((name) => [
        plain(name),
        read.numbers.has(name) ? "number" : "category",
        formatNumber(worth.get(name)),
      ]),
    ),
  ];
}

function limits({ judgement, file, without }: Described): readonly string[] {
  const expectations = (file.brief?.expectations ?? []).map((expectation) =>
    typeof expectation === "string"
      ? `${plain(expectation)} (no finding yet)`
      : `${plain(expectation.expect)}${expectation.found ? ` Found: ${plain(expectation.found)}` : ""}${expectation.held ? ` Confirmed: ${expectation.held}.` : ""}`,
  );
  const contracts = file.delivery.map(
    (delivery) =>
      `- Rows for ${plain(delivery.name)} are ${delivery.contract.otherwise === "stop" ? "not delivered" : "delivered with a warning"} when a column is missing in ${formatShare(delivery.contract.most_missing_increase)} more of them than in training, or unseen in ${formatShare(delivery.contract.most_unseen)}.`,
  );
  return [
    "## Limits",
    "",
    ...(judgement && judgement.findings.length > 0
      ? judgement.findings.map((finding) => `- The guard: ${plain(finding.message)}`)
      : ["- The guard found no leakage."]),
    ...(without.length > 0 ? [`- Trained without ${without.map(plain).join(", ")}.`] : []),
    ...contracts,
    "",
    ...(expectations.length > 0
      ? ["Expectations:", "", ...expectations.map((expectation) => `- ${expectation}`), ""]
      : []),
  ];
}

/** A version in Markdown, for people: what it is for, data, figures, features, limits, and who stands for it. */
export function describeModel(described: Described): string {
  const { file, number, candidate, learner, settings, state, service, note } = described;
  const chosen = namedSettings(settings);
  return [
    `# ${plain(file.name)}, version ${number}`,
    "",
    `${plain(learner)} (“${plain(candidate)}”), ${state}.${note ? ` ${plain(note)}` : ""}`,
    "",
    ...purpose(described),
    ...data(described),
    ...figures(described),
    ...features(described),
    ...(chosen.length > 0 ? ["## Settings", "", chosen.map((text) => `\`${text}\``).join(", "), ""] : []),
    ...limits(described),
    "## People and service",
    "",
    ...(service.length === 0
      ? ["It has never been in service."]
      : service.map(
          (event) =>
            `- ${day(event.at)}: ${event.what}${event.by ? ` by ${plain(event.by)}` : ""}${event.reason ? `: ${plain(event.reason)}` : ""}`,
        )),
    "",
  ].join("\n");
}
