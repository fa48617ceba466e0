import { runRecord } from "@/store/runs";
import { openStepBench, SOURCE, stepFile as file, type StepBench } from "../../testing/step-bench";
import { TEST_NOW } from "../../testing/warehouse";

/** Steps that choose, combine and reshape rows, and that look along time. */
let lab: StepBench;
beforeAll(async () => {
  lab = await openStepBench();
  await lab.bench.sql(`CREATE TABLE "Ort A".known (art text, seen timestamptz, level integer, note text);
INSERT INTO "Ort A".known SELECT a, timestamptz '2026-06-01 00:00Z' + g * interval '17 hours', g, CASE WHEN g % 4 = 0 THEN NULL ELSE a || g END FROM (VALUES ('a'), ('it''s'), ('B'), (NULL)) v(a), generate_series(0, 9) g;
INSERT INTO "Ort A".known SELECT art, seen, level + 100, 'tie' FROM "Ort A".known WHERE level = 3;
INSERT INTO "Ort A".known VALUES ('a', NULL, 999, 'never');
CREATE TABLE "Ort A".more AS SELECT "Nr" + 100 AS "Nr", stück::bigint AS stück, 'new' AS art, 1.5 AS extra FROM ${SOURCE} WHERE "Nr" <= 4`);
});
afterAll(() => lab.bench.close());

const KNOWN = "  - {name: known rows, from: {schema: Ort A, table: known}}";
const MORE = "  - {name: more, from: {schema: Ort A, table: more}}";
const back = `"wann?" IS NOT NULL`;

const CASES: readonly (readonly [
  what: string,
  steps: string,
  columns: readonly string[],
  sql: string,
  strands?: string,
])[] = [
  [
    "remove duplicates: the first by an order, ties broken the same way every time, rows without a value lose",
    `- {do: deduplicate, by: [art], order: ["Größe (mm)"], keep: first}`,
    ["Nr", "art"],
    `SELECT DISTINCT ON (art) * FROM ${SOURCE} ORDER BY art, "Größe (mm)" NULLS LAST, "Nr"`,
  ],
  [
    "remove duplicates: the last by two columns; a row without a value loses to every row with one",
    `- {do: deduplicate, by: [ja, stück], order: ["Größe (mm)", {column: "wann?", descending: true}], keep: last}`,
    ["Nr", "stück"],
    `SELECT DISTINCT ON (ja, stück) * FROM ${SOURCE} ORDER BY ja, stück, "Größe (mm)" DESC NULLS LAST, "wann?" NULLS LAST, "Nr"`,
  ],
  [
    "remove whole rows that repeat",
    `- {do: keep, columns: [stück, ja]}\n- {do: deduplicate}\n- {do: derive, columns: {Nr: 'coalesce(stück, 7)', ja2: ja, feature: 1}}`,
    ["Nr", "ja"],
    `SELECT DISTINCT coalesce(stück, 7) AS "Nr", ja FROM ${SOURCE}`,
  ],
  [
    "sample by hash: the rows that an independent md5 says",
    `- {do: sample, by: ["Nr"], share: 0.4, seed: s}`,
    ["Nr"],
    `SELECT * FROM ${SOURCE} WHERE ('x' || substr(md5('sample s' || chr(31) || "Nr"), 1, 8))::bit(32)::bigint / 4294967296.0 < 0.4`,
  ],
  [
    "sort and limit, ties and gaps",
    `- {do: limit, order: [{column: "Größe (mm)", descending: true}, stück], rows: 9}`,
    ["Nr", "Größe (mm)"],
    `SELECT * FROM ${SOURCE} ORDER BY "Größe (mm)" DESC NULLS LAST, stück, "Nr" LIMIT 9`,
  ],
  [
    "a filter after a limit does not let other rows in",
    `- {do: limit, order: [{column: "Größe (mm)", descending: true}], rows: 9}\n- {do: filter, where: ja}`,
    ["Nr"],
    `SELECT * FROM (SELECT * FROM ${SOURCE} ORDER BY "Größe (mm)" DESC NULLS LAST, "Nr" LIMIT 9) s WHERE ja`,
  ],
  [
    "stack, columns of one strand only kept with gaps, with origin",
    `- {do: stack, with: [more], others: missing, origin: whence}`,
    ["Nr", "stück", "art", "extra", "whence", "leer"],
    `SELECT "Nr", stück, art, NULL::numeric AS extra, 'rows' AS whence, leer FROM ${SOURCE} UNION ALL SELECT "Nr", stück, art, extra, 'more', NULL FROM "Ort A".more`,
    MORE,
  ],
  [
    "stack, only common columns",
    `- {do: stack, with: [more], others: drop}\n- {do: derive, columns: {feature: 1, ja2: true}}`,
    ["Nr", "stück", "art"],
    `SELECT "Nr", stück, art FROM ${SOURCE} UNION ALL SELECT "Nr", stück, art FROM "Ort A".more`,
    MORE,
  ],
  [
    "aggregate: first, last and share meeting a condition",
    `- do: aggregate\n  by: [stück]\n  measures: {Nr: min("Nr"), feature: 'share("Größe (mm)" > 4)', ja2: bool_or(ja), f: 'first_by(art, "wann?")', l: 'last_by("Größe (mm)", "Nr")', s: 'share(ja) filter (where art is not null)'}`,
    ["Nr", "stück", "feature", "f", "l", "s"],
    `SELECT min("Nr") AS "Nr", stück, avg(CASE WHEN "Größe (mm)" > 4 THEN 1.0::float8 WHEN "Größe (mm)" <= 4 THEN 0 END) AS feature, (SELECT art FROM ${SOURCE} i WHERE i.stück IS NOT DISTINCT FROM o.stück AND art IS NOT NULL ORDER BY "wann?" NULLS LAST, art LIMIT 1) AS f, (SELECT "Größe (mm)" FROM ${SOURCE} i WHERE i.stück IS NOT DISTINCT FROM o.stück AND "Größe (mm)" IS NOT NULL ORDER BY "Nr" DESC LIMIT 1) AS l, (count(*) FILTER (WHERE ja AND art IS NOT NULL))::float8 / count(*) FILTER (WHERE art IS NOT NULL) AS s FROM ${SOURCE} o GROUP BY stück`,
  ],
  [
    "pivot with fixed columns and a rest",
    `- do: pivot\n  by: [stück]\n  column: art\n  values: [a, "it's", nowhere]\n  rest: true\n  measures: {n: count(*), g: 'max("Größe (mm)") filter (where ja)'}\n- {do: derive, columns: {Nr: 'coalesce(stück, 9)', ja2: n_a > 0, feature: 1}}`,
    ["Nr", "n_a", "n_it's", "n_nowhere", "n_rest", "g_a", "g_rest"],
    `SELECT coalesce(stück, 9) AS "Nr", count(*) FILTER (WHERE art = 'a') AS n_a, count(*) FILTER (WHERE art = 'it''s') AS "n_it's", 0 AS n_nowhere, count(*) FILTER (WHERE art NOT IN ('a', 'it''s', 'nowhere')) AS n_rest, max("Größe (mm)") FILTER (WHERE ja AND art = 'a') AS g_a, max("Größe (mm)") FILTER (WHERE ja AND art NOT IN ('a', 'it''s')) AS g_rest FROM ${SOURCE} GROUP BY stück`,
  ],
  [
    "unpivot drops gaps",
    `- {do: filter, where: '"Nr" <= 12'}\n- {do: convert, columns: {stück: double precision}}\n- {do: unpivot, columns: ["Größe (mm)", stück, leer], name_into: what, value_into: much}`,
    ["Nr", "what", "much"],
    `SELECT "Nr", 'Größe (mm)' AS what, "Größe (mm)" AS much FROM ${SOURCE} WHERE "Nr" <= 12 AND "Größe (mm)" IS NOT NULL UNION ALL SELECT "Nr", 'stück', stück FROM ${SOURCE} WHERE "Nr" <= 12 AND stück IS NOT NULL`,
  ],
  [
    "unpivot keeps gaps",
    `- {do: filter, where: '"Nr" <= 12'}\n- {do: unpivot, columns: ["Größe (mm)", leer], missing: keep}`,
    ["Nr", "name", "value"],
    `SELECT "Nr", 'Größe (mm)' AS name, "Größe (mm)" AS value FROM ${SOURCE} WHERE "Nr" <= 12 UNION ALL SELECT "Nr", 'leer', NULL FROM ${SOURCE} WHERE "Nr" <= 12`,
  ],
  [
    "lag and change over moments, with ties",
    `- {do: lag, columns: ["Größe (mm)"], order: stück, by: [ja], back: [1, 2], difference: true}`,
    ["Nr", "Größe (mm)_lag_1", "Größe (mm)_lag_2", "Größe (mm)_change_1"],
    `WITH m AS (SELECT ja, stück, max("Größe (mm)") AS g, dense_rank() OVER (PARTITION BY ja ORDER BY stück) AS r FROM ${SOURCE} WHERE stück IS NOT NULL GROUP BY ja, stück), w AS (SELECT s.*, (SELECT r FROM m WHERE m.ja = s.ja AND m.stück = s.stück) AS r FROM ${SOURCE} s) SELECT "Nr", (SELECT g FROM m WHERE m.ja = w.ja AND m.r = w.r - 1) AS "Größe (mm)_lag_1", (SELECT g FROM m WHERE m.ja = w.ja AND m.r = w.r - 2) AS "Größe (mm)_lag_2", "Größe (mm)" - (SELECT g FROM m WHERE m.ja = w.ja AND m.r = w.r - 1) AS "Größe (mm)_change_1" FROM w`,
  ],
  [
    "lag of yes/no and of text in time",
    `- {do: lag, columns: [ja, art], order: "wann?"}`,
    ["Nr", "ja_lag_1", "art_lag_1"],
    `SELECT "Nr", CASE WHEN ${back} THEN lag(ja) OVER (ORDER BY "wann?") END AS ja_lag_1, CASE WHEN ${back} THEN lag(art) OVER (ORDER BY "wann?") END AS art_lag_1 FROM ${SOURCE}`,
  ],
  [
    "rolling measures over a span strictly before",
    `- do: rolling\n  order: "wann?"\n  by: [ja]\n  last: 2 days\n  measures: {n: count(*), m: 'avg("Größe (mm)")', d: 'max("Größe (mm)") - min("Größe (mm)")', c: 'count(*) filter (where stück = 1)'}`,
    ["Nr", "n", "m", "d", "c"],
    `SELECT s."Nr", i.* FROM ${SOURCE} s LEFT JOIN LATERAL (SELECT CASE WHEN s.${back} THEN count(*) END AS n, avg("Größe (mm)") AS m, max("Größe (mm)") - min("Größe (mm)") AS d, CASE WHEN s.${back} THEN count(*) FILTER (WHERE stück = 1) END AS c FROM ${SOURCE} b WHERE b.ja = s.ja AND b."wann?" < s."wann?" AND b."wann?" >= s."wann?" - interval '2 days') i ON true`,
  ],
  [
    "rolling measures over a number of moments, ties excluded",
    `- {do: rolling, order: stück, by: [ja], moments: 1, measures: {n: count(*), s: 'sum("Größe (mm)")'}}`,
    ["Nr", "n", "s"],
    `WITH r AS (SELECT *, CASE WHEN stück IS NOT NULL THEN dense_rank() OVER (PARTITION BY ja ORDER BY stück) END AS r FROM ${SOURCE}) SELECT "Nr", (SELECT CASE WHEN r.r IS NOT NULL THEN count(*) END FROM r b WHERE b.ja = r.ja AND b.r = r.r - 1) AS n, (SELECT sum("Größe (mm)") FROM r b WHERE b.ja = r.ja AND b.r = r.r - 1) AS s FROM r`,
  ],
  [
    "rolling measures over all that came before",
    `- {do: rolling, order: "wann?", measures: {n: count(*), y: share(ja)}}`,
    ["Nr", "n"],
    `SELECT "Nr", CASE WHEN ${back} THEN (SELECT count(*) FROM ${SOURCE} b WHERE b."wann?" < s."wann?") END AS n FROM ${SOURCE} s`,
  ],
  [
    "fill forward in time, by group",
    `- {do: fill, columns: [art, stück], with: {forward: {order: "wann?", by: [ja]}}, indicator: true}`,
    ["Nr", "art", "stück", "art_missing"],
    `SELECT "Nr", coalesce(art, (SELECT art FROM ${SOURCE} b WHERE b.ja = s.ja AND b."wann?" <= s."wann?" AND b.art IS NOT NULL ORDER BY b."wann?" DESC LIMIT 1)) AS art, coalesce(stück, (SELECT stück FROM ${SOURCE} b WHERE b.ja = s.ja AND b."wann?" <= s."wann?" AND b.stück IS NOT NULL ORDER BY b."wann?" DESC LIMIT 1)) AS stück, (art IS NULL)::int AS art_missing FROM ${SOURCE} s`,
  ],
  [
    "the latest row known at a moment, ties by their values",
    `- {do: join_latest, with: known rows, on: [art], moment: "wann?", known: seen, take: [level, note]}`,
    ["Nr", "level", "note"],
    `SELECT "Nr", k.level, k.note FROM ${SOURCE} s LEFT JOIN LATERAL (SELECT * FROM "Ort A".known k WHERE k.art = s.art AND k.seen <= s."wann?" ORDER BY seen DESC, level DESC, note DESC LIMIT 1) k ON true`,
    KNOWN,
  ],
  [
    "the latest row known before a moment, not too old, the others dropped",
    `- {do: join_latest, with: known rows, on: [art], moment: "wann?", known: seen, same_moment: exclude, within: 12 hours, unmatched: drop, prefix: k_}`,
    ["Nr", "k_level"],
    `SELECT "Nr", k.level AS k_level FROM ${SOURCE} s JOIN LATERAL (SELECT * FROM "Ort A".known k WHERE k.art = s.art AND k.seen < s."wann?" ORDER BY seen DESC, level DESC, note DESC LIMIT 1) k ON k.seen >= s."wann?" - interval '12 hours'`,
    KNOWN,
  ],
  [
    "a join on a column and a condition, unmatched rows kept",
    `- {do: join, with: known rows, on: [art], where: '"known rows".seen > "wann?" and level < stück + 2', match: many, prefix: k_}\n- {do: derive, columns: {level2: k_level}}`.replace(
      "level <",
      '"known rows".level <',
    ),
    ["Nr", "level2"],
    `SELECT "Nr", level AS level2 FROM ${SOURCE} s LEFT JOIN "Ort A".known k ON k.art = s.art AND (k.seen > s."wann?" AND k.level < s.stück + 2)`,
    KNOWN,
  ],
  [
    "a SQL step: window, groups, join of a strand",
    `- do: sql\n  reads: [one]\n  select: >-\n    WITH ranked AS (SELECT s.*, row_number() OVER (PARTITION BY s.ja ORDER BY s."Größe (mm)" DESC, s."Nr") AS place FROM strand s)\n    SELECT r."Nr", r.place, o."Wert" * 2 AS worth, r.ja2, 1 AS feature FROM ranked r LEFT JOIN one o ON o."Key" = r.art WHERE r.place <= 15`,
    ["Nr", "place", "worth"],
    `SELECT * FROM (SELECT s."Nr", row_number() OVER (PARTITION BY ja ORDER BY "Größe (mm)" DESC NULLS LAST, s."Nr") AS place, "Wert" * 2 AS worth FROM ${SOURCE} s LEFT JOIN "Ort A".one ON "Key" = art) s WHERE place <= 15`,
  ],
  [
    "a SELECT that groups by an expression, with HAVING",
    `- do: sql\n  select: SELECT coalesce(stück, 9) AS "Nr", count(*) + 1 AS n, max("Größe (mm)") / 2 AS g, bool_or(ja) AS ja2, 1 AS feature FROM strand GROUP BY coalesce(stück, 9) HAVING count(art) > 5`,
    ["Nr", "n", "g"],
    `SELECT coalesce(stück, 9) AS "Nr", count(*) + 1 AS n, max("Größe (mm)") / 2 AS g FROM ${SOURCE} GROUP BY 1 HAVING count(art) > 5`,
  ],
  [
    "a SELECT with UNION ALL and a limit",
    `- do: sql\n  select: SELECT "Nr", ja2, 1 AS feature FROM strand WHERE ja UNION ALL SELECT "Nr" + 50, ja2, 2 FROM (SELECT * FROM strand WHERE NOT ja) AS q ORDER BY "Nr" DESC LIMIT 20`,
    ["Nr", "feature"],
    `SELECT * FROM (SELECT "Nr", 1 AS feature FROM ${SOURCE} WHERE ja UNION ALL SELECT "Nr" + 50, 2 FROM ${SOURCE} WHERE NOT ja) s ORDER BY "Nr" DESC LIMIT 20`,
  ],
  [
    "a step that is switched off changes nothing, and its mistakes do not matter",
    `- {do: filter, where: nonsense > 1, off: true}`,
    ["Nr", "art"],
    `SELECT * FROM ${SOURCE}`,
  ],
];

test.each(CASES.map(([what, steps, columns, sql, strands = ""]) => ({ what, steps, columns, sql, strands })))(
  "$what",
  async ({ steps, columns, sql, strands }) => {
    expect((await lab.rowsAfter(file(steps, strands), columns)).rows).toEqual(
      await lab.expected(sql, columns),
    );
  },
);

test("a join with a condition may not multiply rows unless it is said", async () => {
  const steps = `- {do: join, with: known rows, on: [art], where: '"known rows".seen > "wann?"', take: [level]}`;
  await lab.bench.save(file(steps, KNOWN));
  const run = await lab.bench.run("train", "steps");
  expect(run.problems.map((problem) => problem.code)).toEqual(["join_fans_out"]);
});

describe("what a step refuses", () => {
  const REFUSALS: readonly (readonly [what: string, steps: string, says: RegExp])[] = [
    [
      "a stack of strands whose columns differ, unless it is said what to do",
      "- {do: stack, with: [more]}",
      /Not every strand has/,
    ],
    [
      "a pivot of very many columns, with their number",
      `- do: pivot\n  by: [stück]\n  column: art\n  values: [${Array.from({ length: 10_000 }, (_, index) => index).join(", ")}]\n  measures: {n: count(*)}`,
      /10,000 columns; at most 500/,
    ],
    [
      "a median over a moving window",
      `- {do: rolling, order: "wann?", measures: {m: 'percentile_cont(0.5) within group (order by stück)'}}`,
      /cannot be computed over a rolling/,
    ],
    [
      "a span of time over a number",
      "- {do: rolling, order: stück, last: 2 days, measures: {n: count(*)}}",
      /needs a date or time/,
    ],
    [
      "a SELECT that reads a table",
      '- {do: sql, select: SELECT * FROM "Ort A"."Mess werte"}',
      /cannot be read here/,
    ],
    [
      "a SELECT that reads the catalog",
      "- {do: sql, select: SELECT * FROM pg_catalog.pg_authid}",
      /"pg_catalog.pg_authid" cannot be read/,
    ],
    ["a statement that writes", "- {do: sql, select: DELETE FROM strand}", /one SELECT and nothing else/],
    [
      "two statements",
      "- {do: sql, select: SELECT 1 AS a FROM strand; DROP TABLE x}",
      /one SELECT and nothing else/,
    ],
    [
      "a writing common table",
      "- {do: sql, select: WITH d AS (DELETE FROM strand RETURNING *) SELECT * FROM d}",
      /WITH may contain only SELECT/,
    ],
    ["SELECT INTO", "- {do: sql, select: SELECT * INTO x FROM strand}", /INTO is not supported/],
    [
      "a function that is not allowed",
      "- {do: sql, select: SELECT pg_sleep(100) AS s FROM strand}",
      /pg_sleep\(\) is not available/,
    ],
    [
      "a query that runs forever",
      "- {do: sql, select: WITH RECURSIVE r AS (SELECT 1 AS n FROM strand UNION ALL SELECT n + 1 FROM r) SELECT * FROM r}",
      /RECURSIVE is not supported/,
    ],
    [
      "missing values first in an order",
      "- {do: sql, select: SELECT * FROM strand ORDER BY stück NULLS FIRST LIMIT 3}",
      /NULLS FIRST is not supported/,
    ],
    [
      "a sub-select in an expression",
      "- {do: filter, where: '\"Nr\" in (select usesysid from pg_user)'}",
      /subquery/,
    ],
    [
      "an unknown column in a SELECT, with the likely one",
      "- {do: sql, select: SELECT stueck FROM strand}",
      /no column "stueck".*stück/,
    ],
  ];
  test.each(REFUSALS)("%s", async (_what, steps, says) => {
    expect((await lab.problems(file(steps, MORE))).join("\n")).toMatch(says);
  });
});

describe("checks as steps", () => {
  const CHECKS: readonly (readonly [what: string, setting: string, holds: boolean])[] = [
    ["not missing, when something is", "not_missing: [art]", false],
    ["not missing, when nothing is", 'not_missing: ["Nr", ja]', true],
    ["unique key", 'unique: ["Nr"]', true],
    ["no unique key", "unique: [stück, ja]", false],
    ["in range", 'range: {column: "Größe (mm)", least: 0, most: 12}', true],
    ["out of range", 'range: {column: "Größe (mm)", most: 11.5}', false],
    ["in a range of dates", 'range: {column: "wann?", least: "2026-05-01"}', true],
    ["in a set", "one_of: {column: stück, values: [0, 1, 2]}", true],
    ["outside of a set", "one_of: {column: art, values: [a, B]}", false],
    ["found in another strand", "found_in: {column: art, strand: names, there: art}", true],
    ["not found in another strand", "found_in: {column: art, strand: other, there: Key}", false],
    ["enough rows", "rows: {least: 40, most: 40}", true],
    ["too few rows", "rows: {least: 41}", false],
    ["too many rows", "rows: {most: 39}", false],
    ["fresh", `fresh: {column: "wann?", within: 22 days}`, true],
    ["stale", `fresh: {column: "wann?", within: 20 days}`, false],
  ];
  const names =
    "  - {name: names, from: {schema: Ort A, table: Mess werte}, steps: [{do: deduplicate, by: [art]}]}";
  test.each(CHECKS)("%s", async (_what, setting, holds) => {
    for (const otherwise of ["stop", "warn"]) {
      await lab.bench.save(file(`- {do: check, ${setting}, otherwise: ${otherwise}}`, names));
      const run = await lab.bench.run("train", "steps", { at: TEST_NOW });
      const record = await runRecord(lab.bench.context.store.db, run.id);
      const warned = record.log.some(
        (entry) => entry.level === "warning" && entry.message.includes("failed"),
      );
      expect({ stopped: run.problems.some((problem) => problem.code === "check_failed"), warned }).toEqual({
        stopped: !holds && otherwise === "stop",
        warned: !holds && otherwise === "warn",
      });
    }
  });
});
