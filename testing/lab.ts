/** A made-up table of measurements with a learnable truth, for tests of training and scoring. */

export interface LabOptions {
  readonly table?: string;
  readonly rows?: number;
  /** SQL of the answer; reads x1, x2, cat and u, a uniform number that depends on the id alone. */
  readonly answer?: string;
}

/** SQL that makes the table: gaps in x2, a category with gaps, two days of which the later one is to be scored. */
export function labTable({
  table = "lab.rows",
  rows = 2000,
  answer = "u < 1 / (1 + exp(-(0.8 * x1 - 0.5 * coalesce(x2, 1) + CASE cat WHEN 'oak' THEN 1 WHEN 'elm' THEN -1 ELSE 0 END)))",
}: LabOptions = {}): string {
  return `CREATE SCHEMA IF NOT EXISTS lab;
DROP TABLE IF EXISTS ${table};
CREATE TABLE ${table} AS
SELECT id, site, x1, x2, cat, seen, CASE WHEN seen < date '2026-06-01' THEN ${answer} END AS answer FROM (
  SELECT id, id % 17 AS site, round((3 * sin(id * 12.9898) + cos(id * 4.1414))::numeric, 3)::double precision AS x1,
    CASE WHEN id % 9 = 0 THEN NULL ELSE round((2 * cos(id * 78.233) + 1)::numeric, 3)::double precision END AS x2,
    (ARRAY['oak', 'elm', 'ash', NULL, 'fir'])[1 + (id / 7 % 5)::int] AS cat,
    CASE WHEN id % 5 = 0 THEN date '2026-06-02' ELSE date '2026-05-01' + (id % 28)::int END AS seen,
    (('x' || substr(md5(id::text || 'u'), 1, 8))::bit(32)::bigint / 4294967296.0)::double precision AS u
  FROM generate_series(1, ${rows}) id) s;
ALTER TABLE ${table} ADD PRIMARY KEY (id);`;
}

export interface LabFileOptions {
  readonly name?: string;
  readonly from?: string;
  /** YAML of further steps, each beginning with "- ". */
  readonly steps?: string;
  readonly roles?: string;
  readonly holdout?: string;
  readonly settings?: string;
  readonly delivery?: string;
  readonly more?: string;
  readonly train?: string;
  readonly score?: string;
}

/** A pipeline file over that table. */
export function labFile({
  name = "lab",
  from = "lab.rows",
  steps = "",
  roles = "",
  holdout = "{share: 0.25, seed: 5}",
  settings = "{}",
  delivery = "{name: desk, table: predictions.lab, mode: upsert, columns: [x1, x2, cat]}",
  more = "",
  train = "answer is not null",
  score = "answer is null",
}: LabFileOptions = {}): string {
  return `ravlen: 1
name: ${name}
strands:
  - name: rows
    from: ${from}
    steps:
      - {do: fill, columns: [x2], with: median}
${steps.replaceAll(/^(?=.)/gm, "      ")}
roles:
  key: [id]
  target: {column: answer, kind: binary}
  time: seen
  group: site
${roles.replaceAll(/^(?=.)/gm, "  ")}
rows: {from: rows, train: ${train}, score: ${score}}
holdout: ${holdout}
candidates: [{name: plain, algorithm: logistic_regression, settings: ${settings}}]
delivery: [${delivery}]
${more}
`;
}
