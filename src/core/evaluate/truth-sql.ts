import { hidden } from "../sql/hidden";
import type { TableReference } from "../relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "../sql/quote";
import type { Figures, MetricName } from "./metrics";

type Kind = "binary" | "classes" | "number";

/** The column with the answer, beside those of the key. */
export const TRUE_ANSWER = hidden("answer");
const [VERSION, DAY] = [hidden("version"), hidden("day")];

export interface TruthQuestion {
  /** SQL of rows whose answer is known: the key's columns, and the answer as {@link TRUE_ANSWER} (0 and 1 for yes and no, text for classes). */
  readonly truth: string;
  readonly tables: readonly TableReference[];
  readonly key: readonly string[];
  readonly kind: Kind;
  /** Predictions of logical times before this moment are left out. */
  readonly since: string;
  /** And those after it. */
  readonly until: string;
}

/** Metrics that can be had from sums over days, by target. */
export function measuredMetrics(kind: Kind): readonly MetricName[] {
  switch (kind) {
    case "binary":
      return ["auc", "log_loss", "brier", "accuracy"];
    case "number":
      return ["rmse", "mae", "r_squared"];
    case "classes":
      return ["accuracy"];
  }
}

/** A probability that is never quite 0 or 1, so that its logarithm exists. */
const SMALLEST = 1e-15;

/**
 * SQL that holds past predictions against what happened: one row for each version of the model and each day (UTC) of the runs' logical
 * times, with sums from which {@link readTruth} makes figures. The sum of ranks gives the AUC (Mann and Whitney, 1947), ties sharing
 * their mean rank.
 */
export function truthSql({ truth, tables, key, kind, since, until }: TruthQuestion): string {
  const keys = key.map(quoteIdentifier);
  const said = kind === "binary" ? "prediction, probability" : "prediction";
  const union = tables
    .map(
      (table) =>
        `SELECT ${keys.join(", ")}, ${said}, model_version, run_time FROM ${quoteTable(table)} WHERE run_time >= ${quoteText(since)}::timestamptz AND run_time <= ${quoteText(until)}::timestamptz`,
    )
    .join("\n  UNION ALL ");
  const named = `said AS (SELECT ${keys.join(", ")}, ${said}, model_version AS ${VERSION}, (run_time AT TIME ZONE 'UTC')::date AS ${DAY} FROM (${union}) AS landed)`;
  // Only what has an answer is joined, ranked and summed: in a large table that is little at first.
  const joined = `joined AS (SELECT ${VERSION} AS version, ${DAY} AS day, ${said}, ${TRUE_ANSWER} AS answer FROM said JOIN truth USING (${keys.join(", ")}) WHERE ${TRUE_ANSWER} IS NOT NULL AND prediction IS NOT NULL)`;
  const heads = `WITH truth AS (${truth}),\n${named},\ncounted AS (SELECT ${VERSION} AS version, ${DAY} AS day, count(*)::integer AS predicted FROM said GROUP BY ${VERSION}, ${DAY}),\n${joined}`;
  return `${heads},\n${measured(kind)}\nSELECT version, day::text AS day, predicted, m.* FROM counted LEFT JOIN measured AS m ON m.of_version = version AND m.of_day = day ORDER BY counted.day, version`;
}

/**
 * SQL of the same sums over one table whose rows have their answers: {@link readTruth} reads it as one day of version 0.
 * @param answer its column with the answer: a boolean for yes and no, text for classes
 */
export function answeredSql(table: TableReference, answer: string, kind: Kind): string {
  const said = kind === "binary" ? "prediction, probability" : "prediction";
  const value = `${quoteIdentifier(answer)}${kind === "binary" ? "::integer" : ""}`;
  const joined = `joined AS (SELECT 0 AS version, '' AS day, ${said}, ${value} AS answer FROM ${quoteTable(table)} WHERE ${quoteIdentifier(answer)} IS NOT NULL AND prediction IS NOT NULL)`;
  return `WITH ${joined},\n${measured(kind)}\nSELECT of_version AS version, of_day AS day, answered AS predicted, measured.* FROM measured`;
}

/** Sums over the answered predictions of a version and a day. */
function measured(kind: Kind): string {
  const from = (rows: string, sums: string): string =>
    `measured AS (SELECT version AS of_version, day AS of_day, count(*)::integer AS answered, ${sums} FROM ${rows} GROUP BY version, day)`;
  switch (kind) {
    case "number":
      return from(
        "joined",
        "sum((prediction - answer) ^ 2) AS squares, sum(abs(prediction - answer)) AS errors, var_pop(answer) AS variance, avg(answer)::double precision AS mean",
      );
    case "classes":
      return from("joined", "count(*) FILTER (WHERE prediction = answer)::integer AS hits");
    case "binary": {
      const ranked = `ranked AS (SELECT version, day, prediction, answer, least(greatest(probability, ${SMALLEST}), 1 - ${SMALLEST}) AS p,
    rank() OVER (PARTITION BY version, day ORDER BY probability) + (count(*) OVER (PARTITION BY version, day, probability) - 1) / 2.0 AS place FROM joined)`;
      return `${ranked},\n${from("ranked", "sum(answer) AS positives, sum(place) FILTER (WHERE answer = 1) AS places, -sum(ln(CASE WHEN answer = 1 THEN p ELSE 1 - p END)) AS surprise, sum((p - answer) ^ 2) AS squares, count(*) FILTER (WHERE prediction = (answer = 1))::integer AS hits")}`;
    }
  }
}

/** How the predictions of one version on one day turned out. */
export interface TruthDay {
  readonly version: number;
  /** As 2026-06-30. */
  readonly day: string;
  readonly predicted: number;
  readonly answered: number;
  /** Empty as long as no answer has arrived. */
  readonly figures: Figures;
  /** Mean and variance of the answers, for numbers: with these days can be put together. */
  readonly answers?: { readonly mean: number; readonly variance: number } | null;
}

/** Reads one row of the answer to {@link truthSql}. */
export function readTruth(row: Readonly<Record<string, unknown>>, kind: Kind): TruthDay {
  const number = (name: string): number => Number(row[name] ?? 0);
  const answered = number("answered");
  const mean = (name: string): number => number(name) / answered;
  const head = {
    version: number("version"),
    day: String(row["day"]),
    predicted: number("predicted"),
    answered,
  };
  if (answered === 0) return { ...head, figures: {} };
  switch (kind) {
    case "number": {
      const variance = number("variance");
      return {
        ...head,
        answers: { mean: number("mean"), variance },
        figures: {
          rmse: Math.sqrt(mean("squares")),
          mae: mean("errors"),
          r_squared: variance > 0 ? 1 - mean("squares") / variance : null,
        },
      };
    }
    case "classes":
      return { ...head, figures: { accuracy: mean("hits") } };
    case "binary": {
      const positives = number("positives");
      const pairs = positives * (answered - positives);
      return {
        ...head,
        figures: {
          auc: pairs === 0 ? null : (number("places") - (positives * (positives + 1)) / 2) / pairs,
          log_loss: mean("surprise"),
          brier: mean("squares"),
          accuracy: mean("hits"),
        },
      };
    }
  }
}

/** Variance of the answers of several days, as if they were one: within the days, and between their means. */
function pooledVariance(days: readonly TruthDay[]): number | undefined {
  const known = days.filter((day) => day.answered > 0);
  if (known.some((day) => !day.answers)) return undefined;
  const total = known.reduce((sum, day) => sum + day.answered, 0);
  const mean = known.reduce((sum, day) => sum + day.answered * day.answers!.mean, 0) / total;
  return (
    known.reduce(
      (sum, day) => sum + day.answered * (day.answers!.variance + (day.answers!.mean - mean) ** 2),
      0,
    ) / total
  );
}

/**
 * Days of one version as one. Means, squares and R² are those of all their answers together; the AUC is the mean of the
 * days', weighted by answers. Without the answers' variances, as days of before were kept, there is no R².
 */
export function summarise(days: readonly TruthDay[]): {
  readonly answered: number;
  readonly figures: Figures;
} {
  const answered = days.reduce((sum, day) => sum + day.answered, 0);
  const mean = (name: MetricName, of: (value: number) => number = (value) => value): number | undefined => {
    const known = days.filter((day) => typeof day.figures[name] === "number");
    const rows = known.reduce((sum, day) => sum + day.answered, 0);
    return rows === 0
      ? undefined
      : known.reduce((sum, day) => sum + day.answered * of(day.figures[name]!), 0) / rows;
  };
  const squares = mean("rmse", (value) => value ** 2);
  const variance = pooledVariance(days);
  const figures: Partial<Record<MetricName, number | null | undefined>> = {
    auc: mean("auc"),
    log_loss: mean("log_loss"),
    brier: mean("brier"),
    accuracy: mean("accuracy"),
    mae: mean("mae"),
    rmse: squares === undefined ? undefined : Math.sqrt(squares),
    r_squared:
      squares === undefined || variance === undefined || variance === 0 ? undefined : 1 - squares / variance,
  };
  return {
    answered,
    figures: Object.fromEntries(Object.entries(figures).filter(([, value]) => value !== undefined)),
  };
}
