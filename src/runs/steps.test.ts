import { TEST_NOW } from "../../testing/warehouse";
import { openStepBench, SOURCE, stepFile as file, TRAINING, type StepBench } from "../../testing/step-bench";

let lab: StepBench;
beforeAll(async () => {
  lab = await openStepBench();
});
afterAll(() => lab.bench.close());

const CASES: readonly (readonly [what: string, steps: string, columns: readonly string[], sql: string])[] = [
  [
    "filter keeps only rows for which the condition is true",
    `- {do: filter, where: '"Größe (mm)" > 3 or art = ''it''''s'''}`,
    ["Nr", "Größe (mm)"],
    `SELECT * FROM ${SOURCE} WHERE "Größe (mm)" > 3 OR art = 'it''s'`,
  ],
  [
    "derive with every kind of expression",
    `- do: derive\n  columns:\n    twice: '"Größe (mm)" * 2 + coalesce(stück, 0)'\n    tag: "case when art is null then 'none' when art in ('a', 'B') then upper(art) else lower(art) || '!' end"\n    hour: 'extract(hour from "wann?")'\n    late: '"wann?" > run_time() - interval ''20 days'''`,
    ["Nr", "twice", "tag", "hour", "late"],
    `SELECT *, "Größe (mm)" * 2 + coalesce(stück, 0) AS twice, CASE WHEN art IS NULL THEN 'none' WHEN art IN ('a', 'B') THEN upper(art) ELSE lower(art) || '!' END AS tag, extract(hour FROM "wann?") AS hour, "wann?" > timestamptz '${TEST_NOW.toISOString()}' - interval '20 days' AS late FROM ${SOURCE}`,
  ],
  [
    "derive reads the values before the step, also when it replaces one",
    `- do: derive\n  columns: {stück: stück + 1, davor: stück}`,
    ["Nr", "stück", "davor"],
    `SELECT "Nr", stück + 1 AS stück, stück AS davor FROM ${SOURCE}`,
  ],
  [
    "rename, also a swap",
    `- do: rename\n  columns: {stück: art, art: stück}`,
    ["Nr", "art", "stück"],
    `SELECT "Nr", stück AS art, art AS stück FROM ${SOURCE}`,
  ],
  [
    "a join that keeps unmatched rows",
    `- {do: join, with: one, on: {art: Key}, take: [Wert]}`,
    ["Nr", "Wert"],
    `SELECT * FROM ${SOURCE} LEFT JOIN "Ort A".one ON art = "Key"`,
  ],
  [
    "a join on two columns that drops unmatched rows",
    `- {do: join, with: other, on: {art: Key, stück: part}, unmatched: drop, prefix: o_}`,
    ["Nr", "o_Wert"],
    `SELECT "Nr", "Wert" AS "o_Wert" FROM ${SOURCE} JOIN "Ort A".other ON art = "Key" AND stück = part`,
  ],
  [
    "a join that may multiply rows",
    `- {do: join, with: other, on: {art: Key}, match: many, unmatched: drop, take: [part]}\n- {do: aggregate, by: [Nr], measures: {feature: count(*), ja2: bool_or(ja)}}`,
    ["Nr", "feature"],
    `SELECT "Nr", count(*) AS feature FROM ${SOURCE} JOIN "Ort A".other ON art = "Key" GROUP BY 1`,
  ],
  [
    "aggregate with gaps, filters and ordered sets",
    `- do: aggregate\n  by: [stück]\n  measures: {Nr: min("Nr"), feature: avg("Größe (mm)"), ja2: bool_or(ja), n: count(*), d: count(distinct art), h: 'percentile_cont(0.5) within group (order by "Größe (mm)")', s: 'sum("Größe (mm)") filter (where ja)'}`,
    ["Nr", "stück", "feature", "n", "d", "h", "s"],
    `SELECT stück, min("Nr") AS "Nr", avg("Größe (mm)") AS feature, count(*) AS n, count(DISTINCT art) AS d, percentile_cont(0.5) WITHIN GROUP (ORDER BY "Größe (mm)") AS h, sum("Größe (mm)") FILTER (WHERE ja) AS s FROM ${SOURCE} GROUP BY stück`,
  ],
  [
    "fill with a constant, with indicator",
    `- {do: fill, columns: [art], with: {constant: "it's"}, indicator: true}`,
    ["Nr", "art", "art_missing"],
    `SELECT "Nr", coalesce(art, 'it''s') AS art, (art IS NULL)::int AS art_missing FROM ${SOURCE}`,
  ],
  [
    "fill with the median of training rows",
    `- {do: fill, columns: ["Größe (mm)", stück], with: median}`,
    ["Nr", "Größe (mm)", "stück"],
    `SELECT "Nr", coalesce("Größe (mm)", (SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY "Größe (mm)") FROM (${TRAINING}) t)) AS "Größe (mm)", coalesce(stück, (SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY stück) FROM (${TRAINING}) t)) AS stück FROM ${SOURCE}`,
  ],
  [
    "fill with the mean of training rows",
    `- {do: fill, columns: ["Größe (mm)"], with: mean}`,
    ["Nr", "Größe (mm)"],
    `SELECT "Nr", coalesce("Größe (mm)", (SELECT avg("Größe (mm)") FROM (${TRAINING}) t)) AS "Größe (mm)" FROM ${SOURCE}`,
  ],
  [
    "fill with the most frequent of training rows",
    `- {do: fill, columns: [art, stück], with: most_frequent}`,
    ["Nr", "art", "stück"],
    `SELECT "Nr", coalesce(art, (SELECT mode() WITHIN GROUP (ORDER BY art) FROM (${TRAINING}) t)) AS art, coalesce(stück, (SELECT mode() WITHIN GROUP (ORDER BY stück) FROM (${TRAINING}) t)) AS stück FROM ${SOURCE}`,
  ],
  [
    "scale to mean 0 and deviation 1 of training rows",
    `- {do: scale, columns: ["Größe (mm)"]}`,
    ["Nr", "Größe (mm)"],
    `SELECT "Nr", ("Größe (mm)" - (SELECT avg("Größe (mm)") FROM (${TRAINING}) t)) / (SELECT stddev_samp("Größe (mm)") FROM (${TRAINING}) t) AS "Größe (mm)" FROM ${SOURCE}`,
  ],
  [
    "scale to 0 to 1 of training rows",
    `- {do: scale, columns: [stück], method: min_max}`,
    ["Nr", "stück"],
    `SELECT "Nr", (stück - (SELECT min(stück) FROM (${TRAINING}) t)::double precision) / (SELECT max(stück) - min(stück) FROM (${TRAINING}) t)::double precision AS stück FROM ${SOURCE}`,
  ],
  [
    "a column that is entirely missing values filled with nothing and scaled to nothing",
    `- {do: fill, columns: [leer], with: median, indicator: true}\n- {do: scale, columns: [leer]}`,
    ["Nr", "leer", "leer_missing"],
    `SELECT "Nr", NULL::text AS leer, 1 AS leer_missing FROM ${SOURCE}`,
  ],
  [
    "a second learning step learns from what the first made",
    `- {do: fill, columns: ["Größe (mm)"], with: mean}\n- {do: scale, columns: ["Größe (mm)"], method: min_max}\n- {do: filter, where: '"Größe (mm)" is not null'}`,
    ["Nr", "Größe (mm)"],
    `WITH m AS (SELECT avg("Größe (mm)") AS m FROM (${TRAINING}) t), f AS (SELECT "Nr", coalesce("Größe (mm)", m) AS g FROM ${SOURCE}, m), r AS (SELECT min(g) AS lo, max(g) AS hi FROM f WHERE "Nr" % 2 = 0) SELECT "Nr", (g - lo) / (hi - lo) AS "Größe (mm)" FROM f, r`,
  ],
];

test.each(CASES)("%s", async (_what, steps, columns, sql) => {
  expect((await lab.rowsAfter(file(steps), columns)).rows).toEqual(await lab.expected(sql, columns));
});

test("keep and drop leave the other columns in their order", async () => {
  expect((await lab.rowsAfter(file("- {do: keep, columns: [Nr, art, feature, ja2]}"), ["Nr"])).all).toEqual([
    "Nr",
    "art",
    "feature",
    "ja2",
  ]);
  expect((await lab.rowsAfter(file(`- {do: drop, columns: [leer, "wann?", ja]}`), ["Nr"])).all).toEqual([
    "Nr",
    "Größe (mm)",
    "stück",
    "art",
    "feature",
    "ja2",
  ]);
});

test("a column whose name only looks like an indicator's is left alone", async () => {
  const { all } = await lab.rowsAfter(
    file(
      `- {do: derive, columns: {"art=1": stück, "stück=1": "1"}}\n- {do: encode, columns: [art], reference: none}\n- {do: drop, columns: [stück]}\n- {do: keep, columns: [Nr, ja2, art, feature]}`,
    ),
    ["Nr"],
  );
  expect(all).toEqual(["Nr", "art=B", "art=a", "art=back\\slash", 'art=x"y', "feature", "ja2"]);
});

describe("one-hot columns", () => {
  test("one column per category seen in training; an unseen one is all zero", async () => {
    const { all, rows, learned } = await lab.rowsAfter(
      file("- {do: encode, columns: [art], reference: none}"),
      ["Nr", 'art=x"y', "art=B"],
    );
    expect(all.filter((name) => name.startsWith("art="))).toEqual([
      "art=B",
      "art=a",
      "art=back\\slash",
      'art=x"y',
    ]);
    // Training rows have even numbers, so of the categories only those at every other place are ever seen.
    expect(learned).toEqual({ levels: { art: ["B", "a", "back\\slash", 'x"y'] } });
    expect(rows).toEqual(
      await lab.expected(
        `SELECT "Nr", (art IS NOT DISTINCT FROM 'x"y')::int AS "art=x""y", (art IS NOT DISTINCT FROM 'B')::int AS "art=B" FROM ${SOURCE}`,
        ["Nr", 'art=x"y', "art=B"],
      ),
    );
  });

  test("or gets a separate column, and the first category can be the reference", async () => {
    const { all, rows } = await lab.rowsAfter(file("- {do: encode, columns: [art], unseen: other}"), [
      "Nr",
      "art=other",
    ]);
    const levels = (await lab.bench.sql(`SELECT DISTINCT art FROM (${TRAINING}) t WHERE art IS NOT NULL`))
      .map((row) => String(row["art"]))
      .sort();
    expect(all.filter((name) => name.startsWith("art="))).toEqual([
      ...levels.slice(1).map((level) => `art=${level}`),
      "art=other",
    ]);
    expect(rows).toEqual(
      await lab.expected(
        `SELECT "Nr", (art IS NOT NULL AND art NOT IN (SELECT art FROM (${TRAINING}) t WHERE art IS NOT NULL))::int AS "art=other" FROM ${SOURCE}`,
        ["Nr", "art=other"],
      ),
    );
  });

  test("a category that is itself called other is no clash", async () => {
    const { all } = await lab.rowsAfter(
      file(
        `- {do: derive, columns: {art: "case when art = 'a' then 'other' else art end"}}\n- {do: encode, columns: [art], unseen: other, reference: none}`,
      ),
      ["Nr"],
    );
    expect(all.filter((name) => name.startsWith("art="))).toEqual([
      "art=B",
      "art=back\\slash",
      "art=other",
      'art=x"y',
      "art=other (unseen)",
    ]);
  });

  test("too many categories stop the step with their number", async () => {
    await expect(
      lab.rowsAfter(file("- {do: encode, columns: [art], most_levels: 2}"), ["Nr"]),
    ).rejects.toThrow(/"art" has \d categories/);
  });
});

test("values learned on training rows do not move when rows to score change", async () => {
  const before = await lab.rowsAfter(file(`- {do: fill, columns: ["Größe (mm)"], with: median}`), ["Nr"]);
  await lab.bench.sql(`UPDATE ${SOURCE} SET "Größe (mm)" = 1000 WHERE "Nr" % 2 = 1`);
  const after = await lab.rowsAfter(file(`- {do: fill, columns: ["Größe (mm)"], with: median}`), ["Nr"]);
  expect(after.learned).toEqual(before.learned);
});
