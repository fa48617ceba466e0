import { checkText } from "./check-file";
import { unwrap } from "@/core/problem";
import { stepPreview } from "./draft/preview";
import { openStepBench, SOURCE, stepFile as file, TRAINING, type StepBench } from "../../testing/step-bench";
import { TEST_NOW } from "../../testing/warehouse";

/** Steps that change values one by one, and steps that learn from training rows. */
let lab: StepBench;
beforeAll(async () => {
  lab = await openStepBench();
  await lab.bench
    .sql(`CREATE TABLE "Ort A".texts (nr integer PRIMARY KEY, raw text, body text, ja boolean NOT NULL);
INSERT INTO "Ort A".texts SELECT i, (ARRAY['12', ' -3.5 ', '1e3', 'x', '', NULL, '99999999999', '2026-02-28', '2026-02-29', '2026-02-30', '2024-02-29 23:59', '0000-01-01', 'Yes', 'off', '1', '2026-13-01', '+7', '.5', '2026-06-01T12:00:00+02', '1900-02-29'])[1 + i % 20],
  (ARRAY['The door is stuck, the DOOR!', 'Code missing; code?', NULL, 'Größe falsch: the parcel 2 large', 'door code', '', 'É 名前 door-stuck'])[1 + i % 7], i % 2 = 0 FROM generate_series(1, 40) i`);
});
afterAll(() => lab.bench.close());

const G = `"Größe (mm)"`;
const one = (select: string): string => `(SELECT ${select} FROM (${TRAINING}) t)`;

const CASES: readonly (readonly [what: string, steps: string, columns: readonly string[], sql: string])[] = [
  [
    "rename by pattern and by name",
    `- {do: rename, columns: {art: kind}, pattern: {find: "^st(.*)$", replace: "n_$1"}}`,
    ["Nr", "n_ück", "kind"],
    `SELECT "Nr", stück AS "n_ück", art AS kind FROM ${SOURCE}`,
  ],
  [
    "map values to texts, the rest kept",
    `- {do: map, column: art, values: {a: "it's", "x\\"y": b\\c}, missing: none, into: new}`,
    ["Nr", "new", "art"],
    `SELECT "Nr", CASE WHEN art IS NULL THEN 'none' WHEN art = 'a' THEN 'it''s' WHEN art = 'x"y' THEN 'b\\c' ELSE art END AS new, art FROM ${SOURCE}`,
  ],
  [
    "map numbers to numbers, the rest missing",
    `- {do: map, column: stück, values: {0: 10, 2: 2.5}, rest: missing}`,
    ["Nr", "stück"],
    `SELECT "Nr", CASE stück WHEN 0 THEN 10.0::float8 WHEN 2 THEN 2.5 END AS stück FROM ${SOURCE}`,
  ],
  [
    "map with many values and a constant for the rest",
    `- {do: map, column: "Nr", values: {${Array.from({ length: 30 }, (_, index) => `${index + 1}: v${index}`).join(", ")}}, rest: {constant: more}, into: word}`,
    ["Nr", "word"],
    `SELECT "Nr", CASE WHEN "Nr" <= 30 THEN 'v' || ("Nr" - 1) ELSE 'more' END AS word FROM ${SOURCE}`,
  ],
  [
    "clip at fixed bounds, whole numbers stay whole",
    `- {do: clip, columns: [${G}], low: 2, high: 9.5}\n- {do: clip, columns: [stück], high: 1}`.replace(
      `[${G}]`,
      `['${G.replaceAll('"', "")}']`,
    ),
    ["Nr", "Größe (mm)", "stück"],
    `SELECT "Nr", CASE WHEN ${G} IS NOT NULL THEN least(greatest(${G}, 2), 9.5) END AS ${G}, CASE WHEN stück IS NOT NULL THEN least(stück, 1) END AS stück FROM ${SOURCE}`,
  ],
  [
    "clip at quantiles of training rows",
    `- {do: clip, columns: ["Größe (mm)"], low: {quantile: 0.1}, high: {quantile: 0.8}}`,
    ["Nr", "Größe (mm)"],
    `SELECT "Nr", CASE WHEN ${G} IS NOT NULL THEN least(greatest(${G}, ${one(`percentile_cont(0.1) WITHIN GROUP (ORDER BY ${G})`)}), ${one(`percentile_cont(0.8) WITHIN GROUP (ORDER BY ${G})`)}) END AS ${G} FROM ${SOURCE}`,
  ],
  [
    "date parts in a time zone",
    `- {do: date_parts, column: "wann?", parts: [year, quarter, month, week, day_of_month, day_of_year, weekday, hour, date, is_weekend], zone: Europe/Lisbon}`,
    [
      "Nr",
      "wann?_week",
      "wann?_weekday",
      "wann?_hour",
      "wann?_date",
      "wann?_is_weekend",
      "wann?_day_of_year",
    ],
    `SELECT "Nr", extract(week FROM l)::int AS "wann?_week", extract(isodow FROM l)::int AS "wann?_weekday", extract(hour FROM l)::int AS "wann?_hour", l::date AS "wann?_date", extract(isodow FROM l) >= 6 AS "wann?_is_weekend", extract(doy FROM l)::int AS "wann?_day_of_year" FROM (SELECT *, "wann?" AT TIME ZONE 'Europe/Lisbon' AS l FROM ${SOURCE}) s`,
  ],
  [
    "time between a moment and the run, and two moments",
    `- {do: derive, columns: {tag: 'cast("wann?" as date)'}}\n- {do: elapsed, from: "wann?", unit: hours, into: age}\n- {do: elapsed, from: tag, to: "wann?", unit: minutes, into: into_day}`,
    ["Nr", "age", "into_day"],
    `SELECT "Nr", extract(epoch FROM timestamptz '${TEST_NOW.toISOString()}' - "wann?")::float8 / 3600 AS age, extract(epoch FROM "wann?" - date_trunc('day', "wann?"))::float8 / 60 AS into_day FROM ${SOURCE}`,
  ],
  [
    "extract by pattern",
    `- {do: extract, column: art, pattern: "([[:alpha:]])(['\\"].*)", into: [head, tail]}`,
    ["Nr", "head", "tail"],
    `SELECT "Nr", substring(art FROM '^.*?([[:alpha:]])[''"]') AS head, substring(art FROM '[[:alpha:]]([''"].*)') AS tail FROM ${SOURCE}`,
  ],
  [
    "split at a text",
    `- {do: derive, columns: {path: "art || '/' || coalesce(cast(stück as text), '')"}}\n- {do: split, column: path, at: /, into: [p1, p2, p3]}`,
    ["Nr", "p1", "p2", "p3"],
    `SELECT "Nr", nullif(art, '') AS p1, CASE WHEN art IS NOT NULL THEN stück::text END AS p2, NULL::text AS p3 FROM ${SOURCE}`,
  ],
  [
    "log, root and power, missing where there is none",
    `- {do: derive, columns: {a: '"Größe (mm)" - 3', b: '"Größe (mm)" - 3', c: '"Größe (mm)" - 3', d: '"Größe (mm)" - 3', e: '"Größe (mm)" - 3'}}\n- {do: transform, columns: [a], method: log}\n- {do: transform, columns: [b], method: sqrt}\n- {do: transform, columns: [c], method: power, exponent: -0.5}\n- {do: transform, columns: [d], method: signed_log}\n- {do: transform, columns: [e], method: power, exponent: -2}`,
    ["Nr", "a", "b", "c", "d", "e"],
    `SELECT "Nr", CASE WHEN g > 0 THEN ln(g) END AS a, CASE WHEN g >= 0 THEN sqrt(g) END AS b, CASE WHEN g > 0 THEN power(g, -0.5) END AS c, sign(g) * ln(1 + abs(g)) AS d, CASE WHEN g <> 0 THEN power(g, -2) END AS e FROM (SELECT "Nr", ${G} - 3 AS g FROM ${SOURCE}) s`,
  ],
  [
    "bins at given edges, kept beside the number",
    `- {do: bin, columns: ["Größe (mm)"], at: {edges: [3, 7.5]}, keep: true}`,
    ["Nr", "Größe (mm)_bin"],
    `SELECT "Nr", CASE WHEN ${G} < 3 THEN 1 WHEN ${G} < 7.5 THEN 2 WHEN ${G} IS NOT NULL THEN 3 END AS "Größe (mm)_bin" FROM ${SOURCE}`,
  ],
  [
    "equal-width bins over the training range",
    `- {do: bin, columns: ["Größe (mm)"], at: {equal_width: 4}}`,
    ["Nr", "Größe (mm)"],
    `WITH r AS (SELECT min(${G}) AS lo, max(${G}) AS hi FROM (${TRAINING}) t) SELECT "Nr", CASE WHEN ${G} IS NOT NULL THEN 1 + (${G} >= lo + 0.25 * (hi - lo))::int + (${G} >= lo + 0.5 * (hi - lo))::int + (${G} >= lo + 0.75 * (hi - lo))::int END AS ${G} FROM ${SOURCE}, r`,
  ],
  [
    "quantile bins, ties in the quantiles",
    `- {do: bin, columns: [stück], at: {quantiles: 5}}`,
    ["Nr", "stück"],
    `WITH q AS (SELECT DISTINCT unnest(percentile_cont(ARRAY[0.2, 0.4, 0.6, 0.8]) WITHIN GROUP (ORDER BY stück)) AS e FROM (${TRAINING}) t) SELECT "Nr", CASE WHEN stück IS NOT NULL THEN 1 + (SELECT count(*) FROM q WHERE e <= stück) END AS stück FROM ${SOURCE}`,
  ],
  [
    "on a circle",
    `- {do: cycle, columns: [stück], period: 3}`,
    ["Nr", "stück_sin", "stück_cos"],
    `SELECT "Nr", sin(stück * (2 * pi() / 3)) AS "stück_sin", cos(stück * (2 * pi() / 3)) AS "stück_cos" FROM ${SOURCE}`,
  ],
  [
    "scale by median and quartiles",
    `- {do: scale, columns: ["Größe (mm)"], method: robust}`,
    ["Nr", "Größe (mm)"],
    `WITH q AS (SELECT percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY ${G}) AS q FROM (${TRAINING}) t) SELECT "Nr", (${G} - q[2]) / (q[3] - q[1]) AS ${G} FROM ${SOURCE}, q`,
  ],
  [
    "fill by group, groups never seen by the overall value",
    `- {do: fill, columns: ["Größe (mm)"], with: median, by: [art]}\n- {do: fill, columns: [stück], with: most_frequent, by: [ja]}`,
    ["Nr", "Größe (mm)", "stück"],
    `SELECT "Nr", coalesce(${G}, (SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY ${G}) FROM (${TRAINING}) t WHERE t.art = s.art), ${one(`percentile_cont(0.5) WITHIN GROUP (ORDER BY ${G})`)}) AS ${G}, coalesce(stück, (SELECT mode() WITHIN GROUP (ORDER BY stück) FROM (${TRAINING}) t WHERE t.ja = s.ja)) AS stück FROM ${SOURCE} s`,
  ],
  [
    "entities of two columns whose texts hold the separator stay apart",
    `- {do: derive, columns: {site: "case when \\"Nr\\" % 4 < 2 then 'a / b' else 'a' end", part: "case when \\"Nr\\" % 4 < 2 then 'c' else 'b / c' end"}}\n- {do: baseline, columns: ["Größe (mm)"], entity: [site, part], spread: none}\n- {do: fill, columns: [stück], with: mean, by: [site, part]}`,
    ["Nr", "Größe (mm)", "stück"],
    `SELECT "Nr", ${G} - (SELECT avg(${G}) FROM (${TRAINING}) t WHERE (t."Nr" % 4 < 2) = (s."Nr" % 4 < 2)) AS ${G}, coalesce(stück, (SELECT round(avg(stück)) FROM (${TRAINING}) t WHERE (t."Nr" % 4 < 2) = (s."Nr" % 4 < 2))) AS stück FROM ${SOURCE} s`,
  ],
  [
    "extract by a pattern that only PostgreSQL knows: word boundaries and embedded options",
    `- {do: extract, column: art, pattern: '(?i)\\m([A-Z]+)', into: [word]}`,
    ["Nr", "word"],
    `SELECT "Nr", (regexp_match(art, '(?i)\\m([A-Z]+)'))[1] AS word FROM ${SOURCE}`,
  ],
  [
    "against the entity's own usual",
    `- {do: baseline, columns: ["Größe (mm)"], entity: [stück, ja], least_rows: 3, keep: true}`,
    ["Nr", "Größe (mm)_vs_own"],
    `WITH e AS (SELECT concat(stück, ' / ', ja) AS k, avg(${G}) AS c, stddev_samp(${G}) AS s, count(${G}) AS n FROM (${TRAINING}) t GROUP BY 1), a AS (SELECT avg(${G}) AS c, stddev_samp(${G}) AS s FROM (${TRAINING}) t) SELECT "Nr", (${G} - coalesce(e.c, a.c)) / nullif(coalesce(e.s, a.s), 0) AS "Größe (mm)_vs_own" FROM ${SOURCE} LEFT JOIN e ON k = concat(stück, ' / ', ja) AND n >= 3, a`,
  ],
  [
    "against its own usual by median and quartiles, entities never seen missing",
    `- {do: baseline, columns: ["Größe (mm)"], entity: [art], centre: median, spread: quartiles, least_rows: 2, unseen: missing}`,
    ["Nr", "Größe (mm)"],
    `WITH e AS (SELECT art, percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY ${G}) AS q, count(${G}) AS n FROM (${TRAINING}) t GROUP BY 1) SELECT "Nr", CASE WHEN q[3] = q[1] THEN (${G} - q[2]) * 0 ELSE (${G} - q[2]) / (q[3] - q[1]) END AS ${G} FROM ${SOURCE} s LEFT JOIN e ON e.art = s.art AND n >= 2`,
  ],
  [
    "against its own rolling past",
    `- {do: baseline, columns: ["Größe (mm)"], entity: [ja], past: {order: "wann?", last: 3 days}, least_rows: 2}`,
    ["Nr", "Größe (mm)"],
    `SELECT "Nr", (SELECT CASE WHEN count(b.${G}) >= 2 THEN coalesce((s.${G} - avg(b.${G})) / nullif(stddev_samp(b.${G}), 0), (s.${G} - avg(b.${G})) * 0) END FROM ${SOURCE} b WHERE b.ja = s.ja AND b."wann?" < s."wann?" AND b."wann?" >= s."wann?" - interval '3 days') AS ${G} FROM ${SOURCE} s`,
  ],
  [
    "ordinal codes by alphabet, unseen ones a number",
    `- {do: ordinal, columns: [art], unseen: 0}`,
    ["Nr", "art"],
    `WITH l AS (SELECT art, row_number() OVER (ORDER BY art COLLATE "C") AS n FROM (${TRAINING}) t WHERE art IS NOT NULL GROUP BY art) SELECT "Nr", CASE WHEN s.art IS NOT NULL THEN coalesce(n, 0) END AS art FROM ${SOURCE} s LEFT JOIN l ON l.art = s.art`,
  ],
  [
    "ordinal codes by frequency and by a given order",
    `- {do: derive, columns: {art2: art}}\n- {do: ordinal, columns: [art], order: frequency}\n- {do: ordinal, columns: [art2], order: [B, a]}`,
    ["Nr", "art", "art2"],
    `WITH l AS (SELECT art, row_number() OVER (ORDER BY count(*) DESC, art COLLATE "C") AS n FROM (${TRAINING}) t WHERE art IS NOT NULL GROUP BY art) SELECT "Nr", n AS art, CASE s.art WHEN 'B' THEN 1 WHEN 'a' THEN 2 END AS art2 FROM ${SOURCE} s LEFT JOIN l ON l.art = s.art`,
  ],
  [
    "how frequent categories are",
    `- {do: frequency, columns: [art], keep: true}\n- {do: frequency, columns: [stück], as: count}`,
    ["Nr", "art_frequency", "stück"],
    `SELECT "Nr", CASE WHEN art IS NOT NULL THEN (SELECT count(*) FROM (${TRAINING}) t WHERE t.art = s.art)::float8 / ${one("count(art)")} END AS art_frequency, CASE WHEN stück IS NOT NULL THEN (SELECT count(*) FROM (${TRAINING}) t WHERE t.stück = s.stück)::float8 END AS stück FROM ${SOURCE} s`,
  ],
  [
    "rare categories grouped, unseen ones with them",
    `- {do: derive, columns: {art: "case when \\"Nr\\" < 12 then art else 'a' end"}}\n- {do: group_rare, columns: [art], least_rows: 2, label: few}`,
    ["Nr", "art"],
    `WITH d AS (SELECT "Nr", CASE WHEN "Nr" < 12 THEN art ELSE 'a' END AS art FROM ${SOURCE}) SELECT "Nr", CASE WHEN art IS NULL THEN NULL WHEN (SELECT count(*) FROM d t WHERE t."Nr" % 2 = 0 AND t.art = d.art) >= 2 THEN art ELSE 'few' END AS art FROM d`,
  ],
  [
    "mean answer by category, for rows that are not learned from",
    `- {do: target_mean, columns: [art], smoothing: 3}`,
    ["Nr", "art"],
    `WITH a AS (SELECT avg(ja::int::float8) AS m FROM (${TRAINING}) t), c AS (SELECT art, sum(ja::int) AS s, count(*) AS n FROM (${TRAINING}) t GROUP BY art) SELECT s."Nr", CASE WHEN c.n IS NULL THEN m ELSE (c.s + 3 * m) / (c.n + 3) END AS art FROM ${SOURCE} s LEFT JOIN c ON c.art IS NOT DISTINCT FROM s.art, a`,
  ],
  [
    "regions: inside, outside, overlapping, missing",
    `- do: label_regions\n  x: "Größe (mm)"\n  y: "Nr"\n  regions:\n    - {label: low, points: [[0.5, 0.5], [6.5, 0.5], [6.5, 20.5], [0.5, 20.5]]}\n    - {label: high, points: [[4.5, 10.5], [12.5, 10.5], [12.5, 40.5], [4.5, 40.5]]}\n  otherwise: none\n  into: zone`,
    ["Nr", "zone"],
    `SELECT "Nr", CASE WHEN ${G} IS NULL THEN NULL WHEN ${G} BETWEEN 1 AND 6 AND "Nr" <= 20 THEN 'low' WHEN ${G} BETWEEN 5 AND 12 AND "Nr" >= 11 THEN 'high' ELSE 'none' END AS zone FROM ${SOURCE}`,
  ],
];

/** Doubles computed in another order may differ in the last place. */
const rounded = (rows: readonly (readonly (string | null)[])[]): unknown =>
  rows.map((row) =>
    row.map((value) => {
      if (value !== null && /^-?\d+\.\d{6,}(e-?\d+)?$/.test(value)) return Number(value).toPrecision(12);
      if (value === "-0") return "0";
      return value;
    }),
  );

test.each(CASES)("%s", async (_what, steps, columns, sql) => {
  const after = await lab.rowsAfter(file(steps), columns);
  expect(rounded(after.rows)).toEqual(rounded(await lab.expected(sql, columns)));
});

const TEXTS = (steps: string): string => `ravlen: 1
name: texts
strands:
  - name: rows
    from: {schema: Ort A, table: texts}
    steps:
      - {do: derive, columns: {feature: 1.0}}
${steps.replaceAll(/^/gm, "      ")}
roles: {key: [nr], target: {column: ja, kind: binary}}
rows: {from: rows, train: nr <= 28, score: nr > 28}
holdout: {share: 0.0001, seed: 3}
candidates: [{name: c, algorithm: logistic_regression}]`;

/** What PostgreSQL itself makes of a value, NULL where it refuses. */
const TRY = `CREATE FUNCTION pg_temp.try(v text, t text) RETURNS text LANGUAGE plpgsql AS $$ DECLARE r text; BEGIN EXECUTE format('SELECT CAST(CAST(%L AS %s) AS text)', v, t) INTO r; RETURN r; EXCEPTION WHEN OTHERS THEN RETURN NULL; END $$`;

test.each(["integer", "bigint", "numeric", "double precision", "date", "timestamp", "timestamptz"])(
  "text becomes %s exactly where PostgreSQL can convert it, and missing elsewhere",
  async (type) => {
    const { rows } = await lab.rowsAfter(
      TEXTS(`- {do: convert, columns: {raw: ${type}}, failing: missing, flag: true}`),
      ["nr", "raw", "raw_failed"],
    );
    const wanted = await lab.bench.admin(async (client) => {
      await client.query("SET timezone = 'UTC'");
      await client.query(TRY);
      return (
        await client.query<(string | null)[]>({
          text: `SELECT nr::text, pg_temp.try(raw, $1), (raw IS NOT NULL AND pg_temp.try(raw, $1) IS NULL)::text FROM "Ort A".texts t ORDER BY t.nr`,
          values: [type],
          rowMode: "array",
        })
      ).rows;
    });
    // A moment begins with a date: PostgreSQL also takes '12' or '1' for a time of day in some types, which is no value here.
    const isDate = ["date", "timestamp", "timestamptz"].includes(type);
    const strict = wanted.map((row, index) =>
      isDate && rows[index]![1] === null ? [row[0], null, rows[index]![2]] : row,
    );
    expect(rows).toEqual(strict);
    expect(rows.filter((row) => row[1] !== null).length).toBeGreaterThanOrEqual(4);
  },
);

test("a value that does not convert stops the run and is named", async () => {
  await lab.bench.save(TEXTS("- {do: convert, columns: {raw: integer}}"));
  const run = await lab.bench.run("train", "texts");
  expect(run.problems[0]).toMatchObject({
    code: "does_not_convert",
    message: expect.stringContaining('"raw"') as string,
  });
});

describe("terms of a text", () => {
  /** Words and pairs, cut and counted by code of its own. */
  const termsOf = (body: string): readonly string[] => {
    const words = [...body.toLowerCase().matchAll(/[\p{L}\p{N}]+/gu)].map((match) => match[0]);
    return [...words, ...words.slice(1).map((word, index) => `${words[index]!} ${word}`)];
  };

  test("vocabulary and weights equal those counted by hand", async () => {
    const { rows, learned } = await lab.rowsAfter(
      TEXTS(
        "- {do: text_terms, column: body, longest: 2, size: 12, least_texts: 3, most_share: 0.6, stop_words: [is], keep: true}",
      ),
      ["nr", "body", "body_terms"],
    );
    const bodies = rows.map((row) => ({
      training: Number(row[0]) <= 28,
      body: row[1] ?? null,
      terms: row[2] ?? null,
    }));
    const training = bodies
      .filter((body) => body.training && body.body !== null)
      .map((body) => new Set(termsOf(body.body!)));
    const counts = new Map<string, number>();
    for (const set of training)
      for (const term of set)
        if (!term.split(" ").includes("is")) counts.set(term, (counts.get(term) ?? 0) + 1);
    const vocabulary = [...counts]
      .filter(([, count]) => count >= 3 && count <= 0.6 * training.length)
      .sort((left, right) => right[1] - left[1] || (left[0] < right[0] ? -1 : 1))
      .slice(0, 12);
    expect(learned).toEqual({
      texts: training.length,
      terms: vocabulary.map(([term, texts]) => ({ term, texts })),
    });
    for (const { body, terms } of bodies) {
      if (body === null) expect(terms).toBeNull();
      else {
        const pairs = vocabulary.flatMap(([term, texts], index) => {
          const count = termsOf(body).filter((oneTerm) => oneTerm === term).length;
          return count === 0
            ? []
            : [-(index + 1), count * (Math.log((1 + training.length) / (1 + texts)) + 1)];
        });
        const found = terms!
          .slice(1, -1)
          .split(",")
          .filter((part) => part !== "")
          .map(Number);
        expect(found).toHaveLength(pairs.length);
        found.forEach((value, index) => expect(value).toBeCloseTo(pairs[index]!, 9));
      }
    }
  });

  test("a model is trained on them and scores new texts", async () => {
    await lab.bench.sql(
      `CREATE TABLE "Ort A".notes AS SELECT i AS nr, CASE WHEN i % 11 = 0 THEN NULL ELSE (ARRAY['door stuck', 'code missing', 'all fine', 'the door'])[1 + i % 4] END AS body, CASE WHEN i <= 400 THEN (i % 4 IN (0, 3)) <> (i % 7 = 0) END AS answer FROM generate_series(1, 440) i`,
    );
    await lab.bench.save(`ravlen: 1
name: notes
strands:
  - {name: rows, from: {schema: Ort A, table: notes}, steps: [{do: fill, columns: [body], with: {constant: ""}}, {do: text_terms, column: body, weight: count, size: 4}]}
roles: {key: [nr], target: {column: answer, kind: binary}}
rows: {from: rows, train: answer is not null, score: answer is null}
candidates: [{name: c, algorithm: logistic_regression, settings: {ridge: 0.01}}]
delivery: [{name: d, table: predictions.notes}]`);
    const model = await lab.bench.train("notes");
    expect(model.metrics.auc).toBeGreaterThan(0.75);
    const scored = await lab.bench.run("score", "notes");
    expect(scored.state).toBe("done");
    const [row] = await lab.bench.sql(
      `SELECT count(*) AS n, corr(probability, (nr % 4 IN (0, 3) AND nr % 11 <> 0)::int) AS c FROM predictions.notes`,
    );
    expect(Number(row!["n"])).toBe(40);
    expect(Number(row!["c"])).toBeGreaterThan(0.8);
  });
});

test("mean answers of training rows leave out their own fold", async () => {
  const text = file("- {do: target_mean, columns: [art], smoothing: 2, folds: 4, keep: true}")
    .replace("share: 0.0001", "share: 0.2")
    .replace("score:", "score:");
  await lab.bench.save(text);
  const plan = unwrap(await checkText(text, lab.bench.context.warehouse));
  const { learned } = await stepPreview(
    plan,
    lab.bench.context.warehouse,
    "rows",
    plan.main.steps.length,
    TEST_NOW.toISOString(),
  );
  const folds = (learned as { folds: { art: readonly Record<string, { rows: number; sum: number }>[] } })
    .folds.art;
  expect(folds).toHaveLength(4);
  // Folds and holdout as an independent md5 says.
  const rows = await lab.bench.sql(
    `SELECT art, ja, floor((('x' || substr(d, 9, 8))::bit(32)::bigint / 4294967296.0) * 4)::int AS fold FROM (SELECT *, md5('3' || chr(31) || "Nr") AS d FROM (${TRAINING}) t) s WHERE ('x' || substr(d, 1, 8))::bit(32)::bigint / 4294967296.0 >= 0.2`,
  );
  const wanted = Array.from({ length: 4 }, (): Record<string, { rows: number; sum: number }> => ({}));
  for (const row of rows) {
    const entry = (wanted[Number(row["fold"])]![String(row["art"] ?? "\u001f")] ??= { rows: 0, sum: 0 });
    entry.rows += 1;
    entry.sum += row["ja"] ? 1 : 0;
  }
  expect(folds).toEqual(wanted);
});

test.each([
  ["(a", "parentheses () not balanced"],
  ["([a)", "brackets [] not balanced"],
  ["(a)**", "quantifier operand invalid"],
])("the pattern %s is refused in PostgreSQL's words, at its setting", async (pattern, says) => {
  const found = await lab.bench.problems(
    file(`- {do: extract, column: art, pattern: '${pattern}', into: [x]}`),
  );
  expect(found).toEqual([
    expect.objectContaining({
      code: "bad_pattern",
      message: expect.stringContaining(says) as string,
      location: expect.objectContaining({ path: ["strands", 0, "steps", 1, "pattern"] }) as unknown,
    }),
  ]);
});
