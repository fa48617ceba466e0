import { labFile, labTable } from "../../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { baseRelation } from "@/core/plan/frame";
import { withShare } from "@/core/plan/share";
import { unwrap } from "@/core/problem";
import { printRelation } from "@/warehouse/postgres/dialect/relation";
import { checkText } from "../check-file";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 3000 }));
  await bench.sql("CREATE TABLE lab.more AS SELECT * FROM lab.rows WHERE id <= 40");
});
afterAll(() => bench.close());

const SHARE = 0.3;

/** A pipeline whose rows pass through a strand of their own, which others may read too. */
const file = (steps: string, strands = ""): string =>
  labFile({ name: "part" }).replace(
    /strands:[^]*?roles:/,
    `strands:
  - name: clean
    from: lab.rows
    steps:
      - {do: derive, columns: {squared: x1 * x1}}
${strands}  - name: rows
    from: {strand: clean}
    steps:
      - ${steps}
roles:`,
  );

const base = async (text: string, share: number): Promise<string> => {
  const plan = unwrap(withShare(unwrap(await checkText(text, bench.context.warehouse)), share));
  return printRelation(baseRelation(plan), { runTime: TEST_NOW.toISOString() });
};
const count = async (from: string): Promise<number> =>
  Number((await bench.sql(`SELECT count(*) AS n FROM ${from}`))[0]!["n"]);

const LAG = "{do: lag, columns: [x1], order: seen, by: [site], back: [1, 2]}";
const SITES = `  - name: sites
    from: {strand: clean}
    steps:
      - {do: aggregate, by: [site], measures: {usual: avg(x1)}}
`;

test.each<readonly [what: string, together: string, steps: string, strands: string]>([
  ["single rows", "id", "{do: filter, where: x1 > -2}", ""],
  ["earlier values", "site", LAG, ""],
  [
    "two windows, of which one has more columns",
    "site",
    `{do: rolling, order: seen, by: [site, cat], last: 5 days, measures: {past: sum(id)}}\n      - ${LAG}`,
    "",
  ],
  [
    "an aggregate of the same rows, joined to them",
    "site",
    "{do: join, with: sites, on: [site], take: [usual]}",
    SITES,
  ],
  [
    "a SQL step",
    "site",
    "{do: sql, select: 'SELECT s.*, row_number() OVER (PARTITION BY site ORDER BY id) AS place FROM strand s'}",
    "",
  ],
  [
    "rows of another table beneath them",
    "site",
    `{do: stack, with: [more], others: missing}\n      - ${LAG}`,
    "  - {name: more, from: lab.more, steps: []}\n",
  ],
  ["one row of several", "concat_ws('/', site, x2)", "{do: deduplicate, by: [site, x2], order: [id]}", ""],
])(
  "%s: a share holds what belongs together, and every row is as it is among all",
  async (_what, together, steps, strands) => {
    const text = file(steps, strands);
    const [whole, part] = [await base(text, 1), await base(text, SHARE)];
    expect(await count(`((${part}) EXCEPT (${whole})) AS other`)).toBe(0);
    const [all, some] = [await count(`(${whole}) AS w`), await count(`(${part}) AS p`)];
    expect(some / all).toBeGreaterThan(0.1);
    expect(some / all).toBeLessThan(0.5);
    const left = `SELECT id FROM (${whole}) AS w WHERE ${together} IN (SELECT ${together} FROM (${part}) AS p)`;
    expect(await count(`(${left} EXCEPT SELECT id FROM (${part}) AS p) AS missing`)).toBe(0);
  },
);

test.each<readonly [what: string, steps: string, strands: string]>([
  ["the first rows of an order", "{do: limit, order: [id], rows: 500}", ""],
  ["earlier values of no entity", "{do: lag, columns: [x1], order: seen}", ""],
  [
    "windows that have no column in common",
    `${LAG}\n      - {do: lag, columns: [x2], order: seen, by: [cat]}`,
    "",
  ],
])("%s: a share is refused before anything is read, with the step named", async (_what, steps, strands) => {
  const text = file(steps.replace(/^\{/, "{name: all of them, "), strands);
  await bench.save(text);
  const run = await bench.run("train", "part", { share: 0.1 });
  expect(run.problems).toMatchObject([{ code: "no_share" }]);
  expect(run.problems[0]!.message).toContain("the step “");
  // Who follows the advice gets a share.
  const off = file(steps.replaceAll("{", "{off: true, "), strands);
  expect(await count(`(${await base(off, 0.1)}) AS p`)).toBeLessThan(900);
});

test("no more than the share is prepared", async () => {
  await bench.save(file(`${LAG}\n      - {do: fill, columns: [x2, x1_lag_1, x1_lag_2], with: median}`));
  const run = await bench.run("train", "part", { share: SHARE });
  expect(run.problems).toEqual([]);
  const { rows } = await bench.context.store.pool.query<{ rows: number }>(
    "SELECT rows FROM run_statements WHERE run_id = $1 AND purpose IN ('prepared rows', 'training frame')",
    [run.id],
  );
  expect(rows.length).toBeGreaterThan(0);
  for (const made of rows) expect(made.rows / 3000).toBeLessThan(0.5);
});
