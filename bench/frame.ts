/** The generated frame of the benchmarks: uniform numbers in 20 columns and an answer that depends on them. */

export const BENCH_COLUMNS = 20;
const NAMES = Array.from({ length: BENCH_COLUMNS }, (_, index) => `x${index + 1}`);

/** SQL that makes the source table `bench.rows`: a key, 20 numbers, and an answer. Seeded, so that every run sees the same rows. */
export function benchTable(rows: number): string {
  const numbers = NAMES.map(
    (name, index) => `${index % 2 === 0 ? "random() - 0.5" : "2 * random() + random()"} AS ${name}`,
  ).join(", ");
  const odds = NAMES.map((name, index) => `${((index % 7) - 3) / 4} * ${name}`).join(" + ");
  return `CREATE SCHEMA IF NOT EXISTS bench;
SET max_parallel_workers_per_gather = 0;
SELECT setseed(0.42);
CREATE TABLE bench.rows AS SELECT id, ${NAMES.join(", ")}, u < 1 / (1 + exp(-(${odds}))) AS y, ${odds} + u AS z FROM (SELECT id, ${numbers}, random() AS u FROM generate_series(1::bigint, ${rows}) id) s;
ALTER TABLE bench.rows ADD PRIMARY KEY (id);
VACUUM ANALYZE bench.rows`;
}

/** The pipeline over that table: nothing but numbers, so that the frame is one projection. */
export const BENCH_FILE = `ravlen: 1
name: bench
strands: [{name: rows, from: bench.rows}]
roles: {key: [id], target: {column: y, kind: binary}, exclude: [{column: z, because: made from the same odds}]}
rows: {from: rows, train: true, score: true}
holdout: {share: 0.001, seed: 1}
candidates:
  - {name: logistic, algorithm: logistic_regression, settings: {tolerance: 1.0e-8}}
  - {name: boosted, algorithm: boosted_trees, engine: streaming, settings: {trees: 100, depth: 6, validation_share: 0}}
delivery: [{name: table, table: predictions.bench, mode: append}]
`;

/** The same rows with a number to predict. */
export const BENCH_NUMBER_FILE = BENCH_FILE.replace("name: bench", "name: bench-number")
  .replace(
    "{column: y, kind: binary}, exclude: [{column: z,",
    "{column: z, kind: number}, exclude: [{column: y,",
  )
  .replace(
    /candidates:[\s\S]*delivery: .*\n/,
    "candidates: [{name: linear, algorithm: linear_regression, settings: {tolerance: 1.0e-8}}]\n",
  );

/** What a person would write by hand for the same frame. */
export const HAND_WRITTEN_FRAME = `CREATE UNLOGGED TABLE bench.frame AS SELECT id,
  (CASE WHEN ('x' || substr(md5('1' || chr(31) || id::text), 1, 8))::bit(32)::bigint / 4294967296.0::double precision < 0.001 THEN 1 ELSE 0 END)::smallint AS part,
  ('x' || substr(md5('1' || chr(31) || id::text), 9, 8))::bit(32)::bigint / 4294967296.0::double precision AS draw, y::integer::double precision AS target, ${NAMES.join(", ")} FROM bench.rows`;

/** The same write as a delivery makes, of constants, into a table with the same columns and key. */
export const CONSTANT_WRITE = {
  table: "CREATE TABLE bench.constant (LIKE predictions.bench INCLUDING ALL)",
  write:
    "INSERT INTO bench.constant SELECT id, true, 0.5::double precision, 1, '11111111-1111-4111-8111-111111111111'::uuid, now(), now() FROM bench.rows",
};
