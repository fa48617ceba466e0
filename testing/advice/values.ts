import { steps, type AdviceCase } from "./file";

const LONG = "w".repeat(64);
const ENCODED = "{do: encode, columns: [carrier]}";

/** A step that replaces so many values. */
const mapOf = (values: number): string =>
  `{do: map, column: carrier, values: {${Array.from({ length: values }, (_, index) => `c${index}: d${index}`).join(", ")}}}`;

/** Advice about steps that change, learn and check values. */
export const VALUE_ADVICE: readonly AdviceCase[] = [
  steps(
    "bad_setting",
    "{do: baseline, columns: [weight_g], entity: [site_id], centre: median, past: {order: booked_at, last: 30 days}}",
    "{do: baseline, columns: [weight_g], entity: [site_id], centre: mean, spread: deviation, past: {order: booked_at, last: 30 days}}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: baseline, columns: [weight_g], entity: [carrier]}`,
    `{do: baseline, columns: [weight_g], entity: [carrier]}, ${ENCODED}`,
  ),
  steps(
    "bad_bounds",
    "{do: bin, columns: [weight_g], at: {edges: [3, 1]}}",
    "{do: bin, columns: [weight_g], at: {edges: [1, 3]}}",
  ),
  steps(
    "type_clash",
    "{do: check, range: {column: carrier, least: 1}}",
    "{do: check, one_of: {column: carrier, values: [a, b]}}",
  ),
  steps(
    "type_clash",
    "{do: check, range: {column: weight_g, least: abc}}",
    "{do: check, range: {column: weight_g, least: 1}}",
  ),
  steps(
    "type_clash",
    "{do: check, range: {column: booked_at, least: soon}}",
    "{do: check, range: {column: booked_at, least: '2026-05-01'}}",
  ),
  steps(
    "type_clash",
    "{do: check, fresh: {column: weight_g, within: 1 day}}",
    "{do: check, fresh: {column: booked_at, within: 1 day}}",
  ),
  steps(
    "unknown_column",
    "{do: check, found_in: {column: site_id, strand: sites, there: sight}}",
    "{do: check, found_in: {column: site_id, strand: sites, there: site_id}}",
  ),
  steps(
    "type_clash",
    "{do: check, found_in: {column: carrier, strand: sites, there: site_id}}",
    "{do: convert, columns: {carrier: integer}}, {do: check, found_in: {column: carrier, strand: sites, there: site_id}}",
  ),
  steps("one_check", "{do: check}", "{do: check, unique: [parcel_id]}"),
  steps(
    "one_check",
    "{do: check, unique: [parcel_id], not_missing: [weight_g]}",
    "{do: check, unique: [parcel_id]}, {do: check, not_missing: [weight_g]}",
  ),
  steps(
    "no_bound",
    "{do: check, range: {column: weight_g}}",
    "{do: check, range: {column: weight_g, most: 9}}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: check, not_missing: [carrier]}`,
    `{do: check, not_missing: [carrier]}, ${ENCODED}`,
  ),
  steps("no_bound", "{do: clip, columns: [weight_g]}", "{do: clip, columns: [weight_g], low: 1}"),
  steps(
    "bad_bounds",
    "{do: clip, columns: [weight_g], low: 9, high: 1}",
    "{do: clip, columns: [weight_g], low: 1, high: 9}",
  ),
  steps(
    "bad_zone",
    "{do: date_parts, column: booked_at, parts: [hour], zone: Europe/Nowhere}",
    "{do: date_parts, column: booked_at, parts: [hour], zone: Europe/Lisbon}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: encode, columns: [carrier, size_class]}`,
    `${ENCODED}, {do: encode, columns: [size_class]}`,
  ),
  steps(
    "type_clash",
    "{do: fill, columns: [weight_g], with: {constant: heavy}}",
    "{do: fill, columns: [weight_g], with: {constant: 3}}",
  ),
  steps(
    "bad_setting",
    "{do: fill, columns: [weight_g], with: {constant: 3}, by: [carrier]}",
    "{do: fill, columns: [weight_g], with: median, by: [carrier]}",
  ),
  steps(
    "bad_setting",
    "{do: fill, columns: [weight_g], with: {constant: 3}, by: [carrier]}",
    "{do: fill, columns: [weight_g], with: {constant: 3}}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: fill, columns: [carrier], with: most_frequent}`,
    `{do: fill, columns: [carrier], with: most_frequent}, ${ENCODED}`,
  ),
  steps(
    "type_clash",
    "{do: fill, columns: [carrier], with: median}",
    "{do: fill, columns: [carrier], with: most_frequent}",
  ),
  steps(
    "type_clash",
    "{do: fill, columns: [carrier], with: mean}",
    "{do: fill, columns: [carrier], with: {constant: none}}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: frequency, columns: [carrier, size_class]}`,
    `${ENCODED}, {do: frequency, columns: [size_class]}`,
  ),
  steps(
    "missing_setting",
    "{do: group_rare, columns: [carrier]}",
    "{do: group_rare, columns: [carrier], least_rows: 5}",
  ),
  steps(
    "missing_setting",
    "{do: group_rare, columns: [carrier]}",
    "{do: group_rare, columns: [carrier], least_share: 0.1}",
  ),
  steps(
    "missing_setting",
    "{do: group_rare, columns: [carrier]}",
    "{do: group_rare, columns: [carrier], most: 5}",
  ),
  steps(
    "type_clash",
    `${ENCODED}, {do: lag, columns: [carrier, weight_g], order: booked_at, back: [1]}`,
    `{do: lag, columns: [weight_g], order: booked_at, back: [1]}, ${ENCODED}`,
  ),
  steps(
    "type_clash",
    "{do: lag, columns: [carrier], order: booked_at, back: [1], difference: true}",
    "{do: lag, columns: [carrier], order: booked_at, back: [1], difference: false}",
  ),
  steps(
    "type_clash",
    "{do: map, column: carrier, values: {a: 1, b: two}}",
    "{do: map, column: carrier, values: {a: 'one', b: two}}",
  ),
  steps(
    "type_clash",
    "{do: map, column: carrier, values: {a: 1, b: two}}",
    "{do: map, column: carrier, values: {a: 1, b: 2}, rest: missing}",
  ),
  steps(
    "type_clash",
    "{do: map, column: carrier, values: {a: 1, b: 2}}",
    "{do: map, column: carrier, values: {a: 1, b: 2}, rest: missing}",
  ),
  steps(
    "type_clash",
    "{do: map, column: carrier, values: {a: 1, b: 2}}",
    "{do: map, column: carrier, values: {a: 1, b: 2}, rest: {constant: 0}}",
  ),
  steps(
    "bundle_read",
    `${ENCODED}, {do: ordinal, columns: [carrier, size_class]}`,
    `${ENCODED}, {do: ordinal, columns: [size_class]}`,
  ),
  steps(
    "bad_setting",
    "{do: rolling, order: booked_at, last: 7 days, moments: 3, measures: {n: count(*)}}",
    "{do: rolling, order: booked_at, last: 7 days, measures: {n: count(*)}}",
  ),
  steps(
    "type_clash",
    "{do: rolling, order: carrier, last: 7 days, measures: {n: count(*)}}",
    "{do: rolling, order: booked_at, last: 7 days, measures: {n: count(*)}}",
  ),
  steps(
    "cannot_roll",
    "{do: rolling, order: booked_at, last: 7 days, measures: {n: 'percentile_cont(0.5) WITHIN GROUP (ORDER BY weight_g)'}}",
    "{do: rolling, order: booked_at, last: 7 days, measures: {n: avg(weight_g)}}",
  ),
  steps("type_clash", "{do: scale, columns: [carrier, weight_g]}", "{do: scale, columns: [weight_g]}"),
  steps(
    "type_clash",
    "{do: scale, columns: [carrier]}",
    `{do: derive, columns: {carrier: "CAST(carrier AS numeric)"}}, {do: scale, columns: [carrier]}`,
  ),
  steps(
    "type_clash",
    "{do: clip, columns: [carrier], low: 1}",
    "{do: convert, columns: {carrier: integer}}, {do: clip, columns: [carrier], low: 1}",
  ),
  steps(
    "bad_name",
    `{do: extract, column: carrier, pattern: '(.)', into: [${LONG}]}`,
    "{do: extract, column: carrier, pattern: '(.)', into: [initial]}",
  ),
  steps(
    "duplicate_column",
    "{do: extract, column: carrier, pattern: '(.)', into: [weight_g]}",
    "{do: extract, column: carrier, pattern: '(.)', into: [initial]}",
  ),
  steps("type_clash", "{do: target_mean, columns: [carrier]}", "{do: frequency, columns: [carrier]}", {
    target: "{column: size_class, kind: classes}",
    candidate: "{name: c, algorithm: logistic_regression}",
  }),
  steps(
    "bundle_read",
    `${ENCODED}, {do: target_mean, columns: [carrier, size_class]}`,
    `${ENCODED}, {do: target_mean, columns: [size_class]}`,
  ),
  steps(
    "role_clash",
    "{do: target_mean, columns: [size_class, carrier]}",
    "{do: target_mean, columns: [carrier]}",
    {
      target: "{column: size_class, kind: binary, positive: S}",
      candidate: "{name: c, algorithm: logistic_regression}",
    },
  ),
  steps(
    "bad_pattern",
    "{do: extract, column: carrier, pattern: 'a(.)', into: [one, two]}",
    "{do: extract, column: carrier, pattern: '(a)(.)', into: [one, two]}",
  ),
  steps(
    "bad_setting",
    "{do: transform, columns: [weight_g], method: power}",
    "{do: transform, columns: [weight_g], method: power, exponent: 2}",
  ),
  steps(
    "bad_setting",
    "{do: transform, columns: [weight_g], method: log, exponent: 2}",
    "{do: transform, columns: [weight_g], method: log}",
  ),
  steps("too_many_values", mapOf(5001), mapOf(5000)),
];
