import { steps, type AdviceCase } from "./file";

const LONG = "w".repeat(64);
const STACKED = "- {name: more, from: larkmere.parcels, steps: [{do: drop, columns: [weight_g]}]}";
const ENCODED = "{do: encode, columns: [carrier]}";

/** Advice about steps that choose, name and combine columns and rows. */
export const SHAPE_ADVICE: readonly AdviceCase[] = [
  steps(
    "bad_name",
    `{do: aggregate, by: [parcel_id, reminders_sent], measures: {${LONG}: count(*)}}`,
    "{do: aggregate, by: [parcel_id, reminders_sent], measures: {n: count(*)}}",
  ),
  steps(
    "duplicate_column",
    "{do: aggregate, by: [parcel_id, reminders_sent], measures: {parcel_id: count(*)}}",
    "{do: aggregate, by: [parcel_id, reminders_sent], measures: {n: count(*)}}",
  ),
  steps(
    "duplicate_column",
    "{do: keep, columns: [parcel_id, parcel_id, weight_g, reminders_sent]}",
    "{do: keep, columns: [parcel_id, weight_g, reminders_sent]}",
  ),
  steps(
    "bad_pattern",
    "{do: rename, pattern: {find: '(a', replace: b}}",
    "{do: rename, pattern: {find: '^weight_', replace: w_}}",
  ),
  steps("missing_setting", "{do: rename}", "{do: rename, columns: {weight_g: grams}}"),
  steps(
    "missing_setting",
    "{do: rename, pattern: {find: zzz, replace: b}}",
    "{do: rename, pattern: {find: '^weight_', replace: w_}}",
  ),
  steps(
    "bundle_renamed",
    `${ENCODED}, {do: rename, columns: {carrier: c}}`,
    `{do: rename, columns: {carrier: c}}, {do: encode, columns: [c]}`,
  ),
  steps("bad_name", `{do: rename, columns: {weight_g: ${LONG}}}`, "{do: rename, columns: {weight_g: grams}}"),
  steps(
    "duplicate_column",
    "{do: rename, columns: {weight_g: carrier}}",
    "{do: rename, columns: {weight_g: grams}}",
  ),
  steps(
    "duplicate_column",
    "{do: rename, columns: {weight_g: carrier}}",
    "{do: drop, columns: [carrier]}, {do: rename, columns: {weight_g: carrier}}",
  ),
  steps(
    "type_clash",
    "{do: convert, columns: {delivered_at: boolean}}",
    "{do: convert, columns: {delivered_at: date}}",
  ),
  steps(
    "type_clash",
    "{do: convert, columns: {delivered_at: boolean}}",
    `{do: derive, columns: {delivered_at: "delivered_at is not null"}}`,
  ),
  steps("bad_name", `{do: derive, columns: {${LONG}: weight_g}}`, "{do: derive, columns: {grams: weight_g}}"),
  steps("not_a_condition", "{do: filter, where: weight_g}", "{do: filter, where: weight_g > 0}"),
  steps(
    "unknown_column",
    "{do: join, with: sites, on: [site_id], take: [twon]}",
    "{do: join, with: sites, on: [site_id], take: [town]}",
  ),
  steps(
    "type_clash",
    "{do: join, with: sites, on: {carrier: site_id}, take: [town]}",
    "{do: convert, columns: {carrier: integer}}, {do: join, with: sites, on: {carrier: site_id}, take: [town]}",
  ),
  steps(
    "duplicate_column",
    "{do: join, with: sites, on: [site_id], take: [site_id]}",
    "{do: join, with: sites, on: [site_id], take: [town]}",
  ),
  steps(
    "duplicate_column",
    "{do: join, with: sites, on: [site_id], take: [site_id]}",
    "{do: join, with: sites, on: [site_id], take: [site_id], prefix: there_}",
  ),
  steps(
    "type_clash",
    "{do: join_latest, with: weather, on: {carrier: town}, moment: weight_g, known: observed_at, take: [rain_mm]}",
    "{do: join_latest, with: weather, on: {carrier: town}, moment: booked_at, known: observed_at, take: [rain_mm]}",
  ),
  steps(
    "not_a_condition",
    "{do: join, with: sites, on: [site_id], where: sites.compartments, take: [town]}",
    "{do: join, with: sites, on: [site_id], where: sites.compartments > weight_g, take: [town]}",
  ),
  steps(
    "unknown_strand",
    "{do: join, with: sitse, on: [site_id], take: [town]}",
    "{do: join, with: sites, on: [site_id], take: [town]}",
  ),
  steps(
    "too_many_columns",
    `{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [${Array.from({ length: 501 }, (_, index) => `v${index}`).join(", ")}], measures: {n: count(*)}}`,
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [S, M], rest: true, measures: {n: count(*)}}",
  ),
  steps(
    "duplicate_name",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [S, S], measures: {n: count(*)}}",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [S, M], measures: {n: count(*)}}",
  ),
  steps(
    "cannot_pivot",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [S, M], measures: {n: 'first_by(weight_g, booked_at)'}}",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [S, M], measures: {n: max(weight_g)}}",
  ),
  steps(
    "duplicate_column",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [id, M], measures: {parcel: count(*)}}",
    "{do: pivot, by: [parcel_id, reminders_sent], column: size_class, values: [id, M], measures: {n: count(*)}}",
  ),
  steps("bundle_read", `${ENCODED}, {do: unpivot, columns: [carrier]}`, `{do: unpivot, columns: [carrier]}`),
  steps(
    "type_clash",
    "{do: unpivot, columns: [carrier, weight_g]}",
    "{do: convert, columns: {weight_g: text}}, {do: unpivot, columns: [carrier, weight_g]}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: stack, with: [more], others: missing}`,
    `{do: stack, with: [more], others: missing}, ${ENCODED}`,
    { strands: STACKED },
  ),
  steps(
    "type_clash",
    "{do: convert, columns: {site_id: text}}, {do: stack, with: [more], others: missing}",
    "{do: stack, with: [more], others: missing}",
    { strands: STACKED },
  ),
  steps("columns_differ", "{do: stack, with: [more]}", "{do: stack, with: [more], others: missing}", {
    strands: STACKED,
  }),
  steps("columns_differ", "{do: stack, with: [more]}", "{do: stack, with: [more], others: drop}", {
    strands: STACKED,
  }),
  steps(
    "bundle_read",
    `${ENCODED}, {do: sql, select: SELECT * FROM strand}`,
    `{do: sql, select: SELECT * FROM strand}, ${ENCODED}`,
  ),
  steps(
    "flat_region",
    "{do: label_regions, x: weight_g, y: site_id, regions: [{label: a, points: [[0, 0], [1, 1], [2, 2]]}]}",
    "{do: label_regions, x: weight_g, y: site_id, regions: [{label: a, points: [[0, 0], [1, 1], [2, 0]]}]}",
  ),
];
