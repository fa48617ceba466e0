import { hidden } from "../../sql/hidden";
import { quoteIdentifier } from "../../sql/quote";
import { chunks, MOST_RESULTS, TARGET, WEIGHT, weightSum, whereOf, type FrameSource } from "./source";

/** Classes up to which their rows are counted beside everything else; a pass of their own costs more. */
export const FEW_CLASSES = 12;

/** Aggregates of a number column: where workers share the rows, PostgreSQL needs a column for each. */
const AGGREGATES = 5;

/**
 * Rows, weight, target and unanswered rows; of few classes rows and weight each (c, w followed by the class); and per number column the values present, their mean and population deviation
 * and whether they differ (n, m, d, v followed by the position). One statement, or more when there are many columns; the counts come with the first.
 */
export function summarySql(
  source: FrameSource,
  columns: readonly string[],
  ownWeight: boolean,
  classes: number,
): readonly string[] {
  const { weight } = source;
  const mean =
    weight === undefined ? `avg(${TARGET})` : `sum(${TARGET} * ${weight}) / nullif(sum(${weight}), 0)`;
  const deviation =
    weight === undefined
      ? `stddev_pop(${TARGET})`
      : `sqrt(greatest(0, sum(${weight} * ${TARGET} * ${TARGET}) / nullif(sum(${weight}), 0) - power(${mean}, 2)))`;
  const bad = ownWeight
    ? `count(*) FILTER (WHERE ${WEIGHT} IS NULL OR NOT (${WEIGHT} >= 0 AND ${WEIGHT} < 'Infinity'))::double precision`
    : "0::double precision";
  const counts = `count(*)::double precision AS rows, ${weightSum(weight)} AS weight, ${bad} AS bad, ${mean} AS mean, ${deviation} AS deviation, min(${TARGET}) AS smallest, max(${TARGET}) AS largest, count(*) FILTER (WHERE ${TARGET} IS NULL)::double precision AS unanswered`;
  const byClass =
    classes > FEW_CLASSES
      ? []
      : Array.from({ length: classes }, (_, code) => {
          const own = `FILTER (WHERE ${TARGET} = ${code})`;
          return `count(*) ${own}::double precision AS c${code}, ${weight === undefined ? `count(*) ${own}::double precision` : `coalesce(sum(${weight}) ${own}, 0)`} AS w${code}`;
        });
  const moments = columns.map((column, index) => {
    const name = quoteIdentifier(column);
    return `count(${name})::double precision AS n${index}, avg(${name}) AS m${index}, stddev_pop(${name}) AS d${index}, (min(${name}) < max(${name}))::integer AS v${index}`;
  });
  const parts =
    moments.length === 0
      ? [[]]
      : chunks(moments, Math.floor((MOST_RESULTS - 2 * FEW_CLASSES) / AGGREGATES) - 4);
  return parts.map(
    (part, index) =>
      `SELECT ${[...(index === 0 ? [counts, ...byClass] : []), ...part].join(", ")} FROM ${source.table}${whereOf(source)}`,
  );
}

/** Per code of a category: rows and the sum of the target. */
export function levelsSql(source: FrameSource, name: string): string {
  return `SELECT ${quoteIdentifier(name)} AS code, count(*)::double precision AS rows, sum(${TARGET}) AS sum FROM ${source.table}${whereOf(source)} GROUP BY 1`;
}

/** Per class: its code, rows and weight. */
export function classesSql(source: FrameSource): string {
  return `SELECT ${TARGET} AS code, count(*)::double precision AS rows, ${weightSum(source.weight)} AS weight FROM ${source.table}${whereOf(source)} GROUP BY 1`;
}

const present = (source: FrameSource, condition: string): string =>
  `${whereOf(source)}${source.where === "" ? " WHERE" : " AND"} ${condition}`;

/** Per class: weight, sum, mean and squared distances of each number column, in two passes so that far-off means keep their digits. */
export function momentsSql(source: FrameSource, columns: readonly string[]): readonly string[] {
  return chunks(
    columns.map((column, index) => ({ name: quoteIdentifier(column), index })),
    Math.floor(MOST_RESULTS / 4) - 1,
  ).map((part) => {
    const weight = source.weight ?? "1::double precision";
    const [code, means] = [hidden("code"), hidden("means")];
    const of = (measure: "weight" | "sum" | "mean", index: number): string => hidden(`${measure}_${index}`);
    const firsts = part.map(({ name, index }) => {
      const there = `sum(${weight}) FILTER (WHERE ${name} IS NOT NULL)`;
      const sum = `sum(${weight} * ${name})`;
      return `${there} AS ${of("weight", index)}, ${sum} AS ${of("sum", index)}, ${sum} / nullif(${there}, 0) AS ${of("mean", index)}`;
    });
    const inner = `SELECT ${TARGET} AS ${code}, ${firsts.join(", ")} FROM ${source.table}${whereOf(source)} GROUP BY 1`;
    const seconds = part.map(({ name, index }) => {
      const away = `(${name} - ${of("mean", index)})`;
      return `max(${of("weight", index)}) AS n${index}, max(${of("sum", index)}) AS s${index}, max(${of("mean", index)}) AS m${index}, sum(${weight} * ${away} * ${away}) AS q${index}`;
    });
    return `WITH ${means} AS MATERIALIZED (${inner}) SELECT ${code} AS code, ${seconds.join(", ")} FROM ${source.table} JOIN ${means} ON ${code} = ${TARGET}${whereOf(source)} GROUP BY 1`;
  });
}

/** Weight by code of a category and class. */
export function levelClassesSql(source: FrameSource, name: string): string {
  return `SELECT ${quoteIdentifier(name)} AS code, ${TARGET} AS class, ${weightSum(source.weight)} AS weight FROM ${source.table}${whereOf(source)} GROUP BY 1, 2`;
}

/** The smallest target at which half of the weight is reached. */
export function medianSql(source: FrameSource): string {
  if (source.weight === undefined)
    return `SELECT percentile_disc(0.5) WITHIN GROUP (ORDER BY ${TARGET}) AS median FROM ${source.table}${whereOf(source)}`;
  return `SELECT min(y) AS median FROM (SELECT ${TARGET} AS y, sum(${source.weight}) OVER (ORDER BY ${TARGET}) AS before, sum(${source.weight}) OVER () AS total FROM ${source.table}${present(source, `${TARGET} IS NOT NULL`)}) AS ordered WHERE before >= total / 2`;
}

/** The target of the latest rows; of several at the same moment, their mean. */
export function latestSql(source: FrameSource, moment: string): string {
  const name = quoteIdentifier(moment);
  return `SELECT avg(${TARGET}) AS latest, min(${TARGET}) AS first FROM ${source.table}${present(source, `${name} = (SELECT max(${name}) FROM ${source.table}${whereOf(source)})`)}`;
}
