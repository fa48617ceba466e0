import type { AdviceCase, Pieces } from "./file";

const held = (code: string, wrong: string, right: string, others: Pieces = {}): AdviceCase => [
  code,
  { ...others, holdout: wrong },
  { ...others, holdout: right },
];
const TIMED: Pieces = { roles: ", time: booked_at" };
const GROUPED: Pieces = { roles: ", group: site_id" };

/** Advice about which rows train and which judge. */
export const DIVISION_ADVICE: readonly AdviceCase[] = [
  [
    "holdout_group",
    { holdout: "{by: group, share: 0.3}" },
    { holdout: "{by: group, share: 0.3}", roles: ", group: site_id" },
  ],
  held("holdout_stratified", "{by: stratified, share: 0.3}", "{by: key, share: 0.3}"),
  [
    "holdout_time",
    { holdout: "{by: time, from: '2026-05-01'}" },
    { ...TIMED, holdout: "{by: time, from: '2026-05-01'}" },
  ],
  [
    "holdout_time",
    { roles: ", time: carrier", holdout: "{by: time, from: '2026-05-01'}" },
    { ...TIMED, holdout: "{by: time, from: '2026-05-01'}" },
  ],
  held("blind_part", "{share: 0.25, blind: {}}", "{share: 0.25, blind: {share: 0.1}}"),
  held("blind_part", "{share: 0.5, blind: {share: 0.5}}", "{share: 0.25, blind: {share: 0.25}}"),
  held("holdout_time", "{by: time}", "{by: time, from: 2026-05-01}", TIMED),
  held(
    "blind_part",
    "{by: time, from: '2026-05-01', blind: {from: soon}}",
    "{by: time, from: '2026-05-01', blind: {from: 2026-06-01}}",
    TIMED,
  ),
  [
    "holdout_time",
    { holdout: "{share: 0.25, blind: {from: '2026-05-01'}}" },
    { ...TIMED, holdout: "{share: 0.25, blind: {from: '2026-05-01'}}" },
  ],
  held(
    "blind_part",
    "{share: 0.25, blind: {share: 0.1, where: site_id = 3}}",
    "{share: 0.25, blind: {where: site_id = 3}}",
  ),
  held(
    "blind_part",
    "{by: named, groups: [1, 2], blind: {groups: [2, 3]}}",
    "{by: named, groups: [1, 2], blind: {groups: [3]}}",
    GROUPED,
  ),
  held("holdout_group", "{by: named}", "{by: named, groups: [1]}", GROUPED),
  [
    "holdout_group",
    { holdout: "{by: named, groups: [1]}" },
    { ...GROUPED, holdout: "{by: named, groups: [1]}" },
  ],
  held("type_clash", "{by: named, groups: [north]}", "{by: named, groups: [1]}", GROUPED),
  held("holdout_unread", "{share: 0.3, where: site_id = 3}", "{by: condition, where: site_id = 3}"),
  held("holdout_unread", "{share: 0.3, where: site_id = 3}", "{share: 0.3}"),
  held("holdout_condition", "{by: condition}", "{by: condition, where: site_id = 3}"),
  held("holdout_table", "{by: table}", "{by: table, table: larkmere.parcels_more}"),
  held("unknown_table", "{by: table, table: larkmere.parcelz}", "{by: table, table: larkmere.parcels_more}"),
  held("holdout_table", "{by: table, table: larkmere.parcels}", "{by: table, table: larkmere.parcels_more}"),
  held("holdout_table", "{by: table, table: larkmere.sites}", "{by: table, table: larkmere.parcels_more}"),
  held(
    "blind_part",
    "{by: time, from: '2026-05-01', blind: {from: '2026-04-01'}}",
    "{by: time, from: '2026-05-01', blind: {from: '2026-06-01'}}",
    TIMED,
  ),
];
