import { parseSync, loadModule } from "libpg-query";
import { layOutSql } from "./sql-layout";

test("SQL is laid out, and still says the same", async () => {
  await loadModule();
  const sql = `WITH "a b" AS (SELECT "x", extract(epoch FROM "t" - "u") / 3600 AS "h", CASE WHEN "x" IS NULL THEN 'FROM  x' ELSE 'it''s' END AS "c" FROM "s"."t" OFFSET 0) SELECT count(*) FILTER (WHERE "h" > 1) AS "n" FROM "a b"`;
  const laidOut = layOutSql(sql);
  expect(laidOut.split("\n").length).toBeGreaterThan(5);
  expect(laidOut).toContain('extract(epoch FROM "t" - "u")');
  const bare = (text: string): string =>
    JSON.stringify(parseSync(text))
      .replaceAll(/"(location|stmt_len|stmt_location)":-?\d+,?/g, "")
      .replaceAll(",}", "}");
  expect(bare(laidOut)).toBe(bare(sql));
});

test("what can not be laid out stays as it is", () => {
  expect(layOutSql("SELECT 'unfinished")).toBe("SELECT 'unfinished");
  const long = `SELECT ${"1 + ".repeat(6000)}1`;
  expect(layOutSql(long)).toBe(long);
});
