import { readFileSync } from "node:fs";
import { DEMO_CATALOG } from "../../../testing/catalog";
import { loadGrammar } from "../expression/parse";
import { parsePipeline } from "../pipeline/parse";
import { unwrap, type Problem, type Result } from "../problem";
import { checkPipeline } from "./check";
import type { CheckedPlan } from "./plan";

const DEMO = readFileSync("demo/uncollected-72h.yaml", "utf8");

beforeAll(() => loadGrammar());

function check(text: string): Result<CheckedPlan> {
  const parsed = parsePipeline(text);
  return parsed.ok ? checkPipeline(parsed.value, DEMO_CATALOG) : parsed;
}

/** The demo's file with one piece of text replaced; the replacement must change something. */
function edited(from: string, to: string): string {
  expect(DEMO).toContain(from);
  return DEMO.replace(from, to);
}

const problems = (text: string): readonly Problem[] => {
  const checked = check(text);
  return checked.ok ? checked.value.warnings : checked.problems;
};

/** The number of the line that holds a text, counted as people do. */
const lineOf = (text: string, part: string): number => text.slice(0, text.indexOf(part)).split("\n").length;

test("the demo's file is good, and its columns have their roles", () => {
  const plan = unwrap(check(DEMO));
  expect(plan.strands.map((strand) => strand.name)).toEqual([
    "town weather",
    "sites",
    "recipients",
    "parcels",
  ]);
  expect(plan.features.map((feature) => `${feature.name}:${feature.kind}`).sort()).toEqual([
    "age_band:category",
    "before_weekend:number",
    "carrier_name:category",
    "compartments:number",
    "delivery_hour:number",
    "notice_preference:category",
    "rain_in_open_mm:number",
    "setting:category",
    "sheltered:number",
    "size_class:bundle",
    "temperature_c:number",
    "transit_hours:number",
    "weight_g:number",
  ]);
  expect(plan.roles.get("reminders_sent")).toEqual({
    role: "excluded",
    because: expect.stringContaining("afterwards") as string,
  });
  expect(plan.roles.get("uncollected")?.role).toBe("target");
  expect(plan.warnings).toEqual([]);
});

test("a column remembers the source columns it is derived from", () => {
  const { output } = unwrap(check(DEMO)).main;
  expect(output.get("rain_in_open_mm")?.sources).toEqual(
    expect.arrayContaining(["larkmere.sites.sheltered", "larkmere.weather.rain_mm"]),
  );
  expect(output.get("uncollected")?.sources).toEqual([
    "larkmere.parcels.collected_at",
    "larkmere.parcels.delivered_at",
  ]);
  expect(output.get("setting")).toMatchObject({ nullable: true, sources: ["larkmere.sites.setting"] });
});

test("equal meaning has an equal hash; anything that decides the result changes it", () => {
  const hash = unwrap(check(DEMO)).hash;
  expect(
    unwrap(check(edited("Young recipients", "# a remark\n    - Young recipients").replace("- # a", "# a")))
      .hash,
  ).toBe(hash);
  expect(
    unwrap(
      check(edited("note: Some readings were sent twice; means are not hurt by that.", "note: otherwise")),
    ).hash,
  ).toBe(hash);
  expect(unwrap(check(edited("seed: 7", "seed: 8"))).hash).not.toBe(hash);
  expect(unwrap(check(edited("with: median", "with: mean"))).hash).not.toBe(hash);
});

const MISTAKES: readonly (readonly [
  what: string,
  from: string,
  to: string,
  code: string,
  at: string,
  hint?: string,
])[] = [
  [
    "a syntax error",
    "steps:\n      - do: derive\n        name: day of reading",
    "steps:\n      - do: [derive\n        name: day of reading",
    "yaml_syntax",
    "name: day of reading",
  ],
  [
    "an unknown table",
    "from: larkmere.sites",
    "from: larkmere.sitse",
    "unknown_table",
    "larkmere.sitse",
    'Did you mean "larkmere.sites"?',
  ],
  [
    "an unknown column in an expression",
    "where: delivered_at is not null",
    "where: deliverd_at is not null",
    "unknown_column",
    "deliverd_at",
    'Did you mean "delivered_at"?',
  ],
  [
    "an unknown column in a list",
    "columns: [weight_g, rain_in_open_mm, temperature_c]",
    "columns: [wieght_g, rain_in_open_mm]",
    "unknown_column",
    "wieght_g",
    'Did you mean "weight_g"?',
  ],
  [
    "an unknown algorithm",
    "algorithm: logistic_regression",
    "algorithm: logistic_regresion",
    "unknown_algorithm",
    "logistic_regresion",
    'Did you mean "logistic_regression"?',
  ],
  ["an unknown step", "- do: scale", "- do: scalee", "unknown_step", "scalee", 'Did you mean "scale"?'],
  [
    "an unknown function",
    "lower(btrim(carrier))",
    "lowr(btrim(carrier))",
    "unknown_function",
    "lowr",
    'Did you mean "lower"?',
  ],
  ["a setting that does not exist", "unseen: zero", "unsen: zero", "unknown_setting", "unsen"],
  ["a type clash", "weekday in (5, 6)", "weekday in ('five', 6)", "type_clash", "weekday in ('five"],
  ["a join on different types", "on: [site_id]", "on: {carrier: site_id}", "type_clash", "carrier: site_id"],
  [
    "an unknown strand",
    "with: recipients",
    "with: recipeints",
    "unknown_strand",
    "recipeints",
    'Did you mean "recipients"?',
  ],
  [
    "a duplicate output column",
    "take: [town, setting, compartments, sheltered]",
    "take: [town, setting, site_id]",
    "duplicate_column",
    "take: [town, setting, site_id]",
  ],
  [
    "a rename onto an existing column",
    "- do: scale\n        name: scale weight\n        columns: [weight_g]\n        method: standard",
    "- do: rename\n        columns: {weight_g: setting}",
    "duplicate_column",
    "weight_g: setting",
  ],
  [
    "a strand that begins at itself",
    "from: larkmere.sites",
    "from: {strand: sites}",
    "strand_cycle",
    "- name: sites",
  ],
  [
    "a key that does not exist",
    "key: [parcel_id]",
    "key: [parcel]",
    "unknown_column",
    "key: [parcel]",
    'Did you mean "parcel_id"?',
  ],
  [
    "a target with a second role",
    "time: delivered_at\n",
    "time: uncollected\n",
    "role_clash",
    "time: uncollected",
  ],
  [
    "a condition that is none",
    "score: delivered_at >",
    "score: weight_g + 1 #",
    "not_a_condition",
    "score: weight_g + 1",
  ],
  ["a schedule that is none", "cron: 30 22 * * *", "cron: 30 25 * * *", "bad_cron", "30 25"],
  ["a time zone that is none", "zone: Europe/Lisbon", "zone: Europe/Lisbonn", "bad_zone", "Lisbonn"],
  [
    "a delivery that is none",
    "delivery: night desk",
    "delivery: night dest",
    "unknown_delivery",
    "night dest",
    'Did you mean "night desk"?',
  ],
  [
    "learning before it is decided which rows train",
    "- do: filter\n        name: delivered only",
    "- do: scale\n        columns: [reminders_sent]\n      - do: derive\n        columns: {delivered_at: delivered_at + interval '1 hour'}\n      - do: filter\n        name: delivered only",
    "learned_too_early",
    "- do: scale\n        columns: [reminders_sent]",
  ],
  [
    "learning before rows are put together",
    "weekday, rain_mm, recipient_id, town]",
    "weekday, rain_mm, recipient_id, town]\n      - do: aggregate\n        by: [parcel_id, delivered_at, collected_at, uncollected]\n        measures: {n: count(*)}",
    "learned_too_early",
    "- do: fill\n        name: fill numbers",
  ],
  ["median of a text", "with: {constant: not given}", "with: median", "type_clash", "columns: [age_band]"],
  [
    "a constant that does not fit",
    "with: {constant: not given}",
    "with: {constant: 3}",
    "type_clash",
    "columns: [age_band]",
  ],
  [
    "an aggregate that aggregates nothing",
    "rain_mm: avg(rain_mm)",
    "rain_mm: rain_mm",
    "measure_not_aggregated",
    "rain_mm: rain_mm",
  ],
  [
    "a name too long for PostgreSQL",
    "before_weekend: weekday",
    `${"w".repeat(64)}: weekday`,
    "bad_name",
    "wwwww",
  ],
  ["a name that Ravlen uses itself", "before_weekend: weekday", "ravlen_part: weekday", "reserved_name", ""],
  ["a newer format", "ravlen: 1", "ravlen: 2", "unknown_format", "ravlen: 2"],
  [
    "a learning step in a side strand",
    "- name: sites\n    from: larkmere.sites",
    "- name: sites\n    from: larkmere.sites\n    steps:\n      - do: scale\n        columns: [compartments]",
    "learns_outside_main",
    "- do: scale\n        columns: [compartments]",
  ],
];

test.each(MISTAKES.map(([what, from, to, code, at, hint = ""]) => [what, from, to, code, at, hint] as const))(
  "%s is named at its line",
  (_what, from, to, code, at, hint) => {
    const text = edited(from, to);
    const found = problems(text);
    const match = found.find((problem) => problem.code === code);
    expect(match).toBeDefined();
    expect(match!.severity).toBe("error");
    if (at !== "") expect(match!.location?.line).toBe(lineOf(text, at));
    expect(match!.location?.line).toBeGreaterThan(0);
    expect(match!.hint).toContain(hint);
  },
);

test("strands that use each other in a circle are named as a circle", () => {
  const text = edited(
    "- name: sites\n    from: larkmere.sites",
    "- name: sites\n    from: larkmere.sites\n    steps:\n      - do: join\n        with: parcels\n        on: [site_id]\n        take: [carrier]",
  );
  const found = problems(text).find((problem) => problem.code === "strand_cycle");
  expect(found?.message).toContain("parcels → sites → parcels");
});

test("several mistakes are reported at once, in one pass", () => {
  const text = edited("lower(btrim(carrier))", "lowr(btrim(carier))")
    .replace("from: larkmere.recipients", "from: larkmere.nobody")
    .replace("30 22 * * *", "nightly");
  expect(problems(text).map((problem) => problem.code)).toEqual(
    expect.arrayContaining(["unknown_function", "unknown_column", "unknown_table", "bad_cron"]),
  );
});

test("a feature made from a column that is known only afterwards is pointed out", () => {
  const text = edited(
    "before_weekend: weekday in (5, 6)",
    "before_weekend: weekday in (5, 6)\n          nudged: reminders_sent > 1",
  );
  expect(problems(text)).toMatchObject([
    { code: "known_later", severity: "warning", message: expect.stringContaining('"nudged"') as string },
  ]);
});

test("a file can name tables whose names need quotes", () => {
  const catalog = {
    tables: [
      {
        schema: 'Ort "A"',
        table: "Päckchen.2026",
        columns: [
          { name: "Schlüssel Nr.", type: "integer" as const, declared: "integer", nullable: false },
          { name: "ja", type: "boolean" as const, declared: "boolean", nullable: false },
          { name: "größe", type: "integer" as const, declared: "integer", nullable: false },
        ],
      },
    ],
  };
  const text = `ravlen: 1
name: päckchen
strands: [{name: rows, from: '"Ort ""A""".\"Päckchen.2026\"'}]
roles: {key: ["Schlüssel Nr."], target: {column: ja, kind: binary}}
rows: {from: rows, train: 'true', score: '"größe" > 1'}
candidates: [{name: c, algorithm: logistic_regression}]`;
  expect(unwrap(checkPipeline(unwrap(parsePipeline(text)), catalog)).features).toEqual([
    { name: "größe", kind: "number", type: "integer" },
  ]);
});
