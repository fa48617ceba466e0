import { type AdviceCase, type Pieces } from "./file";

const delivered = (code: string, wrong: string, right: string, others: Pieces = {}): AdviceCase => [
  code,
  { ...others, delivery: `{name: desk, table: predictions.desk, ${wrong}}` },
  { ...others, delivery: `{name: desk, table: predictions.desk, ${right}}` },
];

const scheduled = (code: string, wrong: string, right: string): AdviceCase => [
  code,
  { more: `schedules: [{name: nightly, run: score, delivery: desk, ${wrong}}]` },
  { more: `schedules: [{name: nightly, run: score, delivery: desk, ${right}}]` },
];

/** Advice about deliveries and schedules. */
export const DELIVERY_ADVICE: readonly AdviceCase[] = [
  [
    "unknown_table",
    { delivery: "{name: desk, table: desk}" },
    { delivery: "{name: desk, table: predictions.desk}" },
  ],
  delivered(
    "duplicate_table",
    "routes: [{table: predictions.a, when: prediction > 3}, {table: predictions.a, when: prediction < 1}]",
    "routes: [{table: predictions.a, when: prediction > 3 or prediction < 1}]",
  ),
  [
    "reserved_name",
    {
      steps: "{do: rename, columns: {parcel_id: prediction}}",
      key: "prediction",
    },
    { steps: "{do: rename, columns: {parcel_id: parcel}}", key: "parcel" },
  ],
  [
    "reserved_name",
    {
      steps: "{do: rename, columns: {weight_g: made_at}}",
      delivery: "{name: desk, of: features, table: predictions.desk}",
    },
    {
      steps: "{do: rename, columns: {weight_g: weighed_at}}",
      delivery: "{name: desk, of: features, table: predictions.desk}",
    },
  ],
  delivered("only_predictions", "of: features, reasons: 2", "of: features"),
  delivered("only_predictions", "of: features, reasons: 2", "of: predictions, reasons: 2"),
  delivered("unknown_column", "columns: [carier]", "columns: [carrier]"),
  delivered("bundle_read", "columns: [carrier]", "columns: [carrier_text]", {
    steps: `{do: derive, columns: {carrier_text: carrier}}, {do: encode, columns: [carrier]}`,
  }),
  delivered("duplicate_column", "columns: [parcel_id]", "columns: [carrier]"),
  delivered(
    "not_delivered",
    "mode: partition, partition: site_id",
    "mode: partition, partition: site_id, columns: [site_id]",
  ),
  delivered(
    "no_partition",
    "mode: partition, columns: [site_id]",
    "mode: partition, partition: site_id, columns: [site_id]",
  ),
  delivered("no_partition", "partition: site_id, columns: [site_id]", "columns: [site_id]"),
  delivered(
    "no_partition",
    "partition: site_id, columns: [site_id]",
    "mode: partition, partition: site_id, columns: [site_id]",
  ),
  delivered(
    "rows_and_replace",
    "mode: replace, rows: not_yet_predicted",
    "mode: upsert, rows: not_yet_predicted",
  ),
  delivered("rows_and_replace", "mode: replace, rows: not_yet_predicted", "mode: replace, rows: all"),
  scheduled("when_unclear", "cron: 0 1 * * *, after: other", "cron: 0 1 * * *"),
  scheduled("after_itself", "after: advice", "after: other"),
  scheduled("unknown_table", "arrival: larkmere.parcel", "arrival: larkmere.parcels"),
  scheduled("bad_cron", "cron: every night", 'cron: "15 2 * * *"'),
  scheduled("bad_zone", "cron: 0 1 * * *, zone: Lisbon", "cron: 0 1 * * *, zone: Europe/Lisbon"),
  [
    "no_delivery",
    { delivery: "", more: "schedules: [{name: nightly, run: score, cron: 0 1 * * *}]" },
    { more: "schedules: [{name: nightly, run: score, cron: 0 1 * * *, delivery: desk}]" },
  ],
  [
    "unknown_delivery",
    { more: "schedules: [{name: nightly, run: score, cron: 0 1 * * *, delivery: desc}]" },
    { more: "schedules: [{name: nightly, run: score, cron: 0 1 * * *, delivery: desk}]" },
  ],
];
