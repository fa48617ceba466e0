import { derived, steps, type AdviceCase } from "./file";

const measured = (code: string, wrong: string, right: string): AdviceCase =>
  steps(
    code,
    `{do: aggregate, by: [parcel_id, reminders_sent], measures: {made: ${JSON.stringify(wrong)}}}`,
    `{do: aggregate, by: [parcel_id, reminders_sent], measures: {made: ${JSON.stringify(right)}}}`,
  );

/** Advice about expressions. */
export const EXPRESSION_ADVICE: readonly AdviceCase[] = [
  measured("measure_not_aggregated", "weight_g", "max(weight_g)"),
  derived("unknown_column", "wieght_g + 1", "weight_g + 1"),
  derived("unknown_column", "entirely_unknown_thing + 1", "weight_g + 1"),
  derived("type_clash", "carrier > 5", "CAST(carrier AS integer) > 5"),
  derived("type_clash", "weight_g = 'heavy'", "weight_g = 500"),
  derived("unknown_function", "lowr(carrier)", "lower(carrier)"),
  derived("aggregate_here", "sum(weight_g)", "weight_g * 1"),
  steps(
    "aggregate_here",
    `{do: derive, columns: {made: "avg(weight_g)"}}`,
    `{do: aggregate, by: [parcel_id, reminders_sent], measures: {made: "avg(weight_g)"}}`,
  ),
  steps(
    "expression_unsupported",
    "{do: aggregate, by: [parcel_id, reminders_sent], measures: {made: 'first_by(weight_g, booked_at) FILTER (WHERE weight_g > 1)'}}",
    "{do: filter, where: weight_g > 1}, {do: aggregate, by: [parcel_id, reminders_sent], measures: {made: 'first_by(weight_g, booked_at)'}}",
  ),
  derived("type_clash", "length(weight_g)", "length(CAST(weight_g AS text))"),
  derived("expression_unsupported", "weight_g + b'01'", "weight_g + 1"),
  derived("expression_unsupported", "carrier = x'ff'", "carrier = 'ff'"),
  derived("expression_unsupported", "CAST(carrier AS money)", "CAST(carrier AS numeric)"),
  derived("expression_unsupported", "(weight_g > 1) IS UNKNOWN", "(weight_g > 1) IS NULL"),
  derived("expression_unsupported", "current_timestamp - booked_at", "run_time() - booked_at"),
  derived("expression_unsupported", "current_date", "CAST(run_time() AS date)"),
  steps(
    "expression_unsupported",
    `{do: derive, columns: {made: "(SELECT max(town) FROM sites)"}}`,
    `{do: join, with: sites, on: [site_id], take: [town]}`,
  ),
  steps(
    "expression_unsupported",
    `{do: join, with: sites, on: [site_id], where: "site.compartments > 1", take: [town]}`,
    `{do: join, with: sites, on: [site_id], where: "sites.compartments > 1", take: [town]}`,
  ),
  derived("expression_unsupported", "parcels.weight_g + 1", "weight_g + 1"),
  steps(
    "expression_unsupported",
    `{do: derive, columns: {made: "row_number() OVER (ORDER BY booked_at)"}}`,
    `{do: sql, select: "SELECT *, row_number() OVER (ORDER BY booked_at) AS made FROM strand"}`,
  ),
  steps(
    "select_unsupported",
    `{do: sql, select: "SELECT *, sum(weight_g) OVER (ORDER BY booked_at RANGE BETWEEN INTERVAL '7 days' PRECEDING AND CURRENT ROW) AS made FROM strand"}`,
    `{do: rolling, order: booked_at, last: 7 days, measures: {made: sum(weight_g)}}`,
  ),
  derived("expression_unsupported", "extract(fortnight FROM booked_at)", "extract(week FROM booked_at)"),
  derived("expression_unsupported", "weight_g # 3", "weight_g % 3"),
  derived("expression_syntax", "", "weight_g / 1000"),
  derived("expression_syntax", "(weight_g + 1", "(weight_g + 1)"),
  derived("expression_syntax", "weight_g, 1", "weight_g"),
  derived("expression_syntax", "weight_g AS grams", "weight_g"),
  derived("expression_syntax", "weight_g\0", "weight_g"),
  derived("expression_syntax", `weight_g${" + 1".repeat(2000)}`, `weight_g${" + 1".repeat(300)}`),
  steps(
    "expression_syntax",
    `{do: derive, columns: {made: "weight_g${" + 1".repeat(6000)}"}}`,
    `{do: derive, columns: {half: "weight_g${" + 1".repeat(300)}"}}, {do: derive, columns: {made: "half${" + 1".repeat(300)}"}}`,
  ),
];

const selected = (code: string, wrong: string, right: string, reads = "sites"): AdviceCase =>
  steps(
    code,
    `{do: sql, reads: [${reads}], select: ${JSON.stringify(wrong)}}`,
    `{do: sql, reads: [${reads}], select: ${JSON.stringify(right)}}`,
  );

/** Advice about a SELECT of one's own. */
export const SELECT_ADVICE: readonly AdviceCase[] = [
  selected("select_syntax", " ", "SELECT * FROM strand"),
  selected("select_syntax", "SELECT * FROM strand WHERE (", "SELECT * FROM strand WHERE (true)"),
  selected("select_syntax", "DELETE FROM strand", "SELECT * FROM strand"),
  selected("select_syntax", "SELECT * FROM strand\0", "SELECT * FROM strand"),
  steps(
    "select_syntax",
    `{do: sql, select: "SELECT *${", weight_g + 1 AS w".repeat(2000)} FROM strand"}`,
    `{do: sql, select: "SELECT *, weight_g + 1 AS w1 FROM strand"}, {do: sql, select: "SELECT *, weight_g + 1 AS w2 FROM strand"}`,
  ),
  selected(
    "select_syntax",
    `SELECT *, weight_g${" + 1".repeat(2000)} AS made FROM strand`,
    `SELECT *, weight_g${" + 1".repeat(300)} AS made FROM strand`,
  ),
  selected("select_unsupported", "SELECT * FROM strand OFFSET 3", "SELECT * FROM strand"),
  selected(
    "select_unsupported",
    "WITH RECURSIVE r AS (SELECT * FROM strand) SELECT * FROM r",
    "WITH r AS (SELECT * FROM strand) SELECT * FROM r",
  ),
  selected(
    "select_unsupported",
    "SELECT * FROM strand UNION SELECT * FROM strand",
    "SELECT DISTINCT * FROM (SELECT * FROM strand UNION ALL SELECT * FROM strand) AS both_of_them",
  ),
  selected(
    "select_unsupported",
    "SELECT * FROM strand UNION ALL SELECT parcel_id FROM strand",
    "SELECT * FROM strand UNION ALL SELECT * FROM strand",
  ),
  selected("select_unsupported", "SELECT 1 AS parcel_id", "SELECT * FROM strand"),
  selected("select_unsupported", "SELECT * FROM larkmere.weather", "SELECT * FROM strand"),
  selected(
    "select_unsupported",
    "SELECT strand.*, town FROM strand NATURAL JOIN sites",
    "SELECT strand.*, town FROM strand JOIN sites ON strand.site_id = sites.site_id",
  ),
  selected(
    "select_unsupported",
    "SELECT strand.*, town FROM sites RIGHT JOIN strand ON strand.site_id = sites.site_id",
    "SELECT strand.*, town FROM strand LEFT JOIN sites ON strand.site_id = sites.site_id",
  ),
  selected(
    "select_unsupported",
    "SELECT strand.* FROM strand JOIN strand ON true",
    "SELECT strand.* FROM strand JOIN strand AS other ON strand.parcel_id = other.parcel_id",
  ),
  selected(
    "select_unsupported",
    "SELECT strand.*, site_id AS there FROM strand JOIN sites ON strand.site_id = sites.site_id",
    "SELECT strand.*, sites.site_id AS there FROM strand JOIN sites ON strand.site_id = sites.site_id",
  ),
  selected(
    "select_unsupported",
    "SELECT * FROM strand LIMIT 3",
    "SELECT * FROM strand ORDER BY parcel_id LIMIT 3",
  ),
];
