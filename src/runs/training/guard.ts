import { formatNumber } from "@/core/format/numbers";
import {
  aloneFinding,
  equalRowsFinding,
  expectedEqual,
  keyFinding,
  manyEqual,
  planFindings,
} from "@/core/guard/findings";
import { aloneSql, aloneStrength, readScreen, screenSql, type AloneGroup } from "@/core/guard/alone";
import type { Finding } from "@/core/evaluate/judgement";
import { chunks } from "@/core/learn/sql/source";
import { classCount } from "@/core/learn/task";
import { taskOf } from "@/core/plan/frame";
import { HOLDOUT_PART, TRAINING_PART } from "@/core/plan/split";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { PART_COLUMN } from "@/core/steps/step";
import type { PreparedFrame } from "./prepare";
import { type Workshop } from "./workshop";

/** Numbers looked at one by one, each in a statement; and correlations asked for in one. */
const [MOST_NUMBERS, MOST_SCREENED] = [200, 1000];
/** Rows on which features are looked at alone, and up to which rows are compared with each other. */
const [ALONE_ROWS, EQUAL_ROWS] = [50_000, 400_000];

/** Looks for answers in the data before anything is trained. Nothing is stopped by it: what is found is kept with the trial, and said. */
export async function guardBefore(shop: Workshop, prepared: PreparedFrame): Promise<readonly Finding[]> {
  const { plan, session } = shop;
  const { shape, frame } = prepared;
  const task = taskOf(plan, shape);
  return shop.recorder.doing("look for answers in the data", async () => {
    const found: Finding[] = [...planFindings(plan)];
    const where = `${quoteIdentifier(PART_COLUMN)} = ${TRAINING_PART}`;
    const texts = new Set((shape.texts ?? []).flat());
    const numbers = shape.numbers.filter((name) => !texts.has(name));
    const looked = await worthALook(shop, prepared, numbers, where);
    const features = [
      ...looked.map((name) => ({ name, kind: "number" as const })),
      ...shape.categories.map(({ column }) => ({ name: column, kind: "category" as const })),
    ];
    await noteLeftOut(shop, prepared, { numbers: numbers.length, looked: looked.length, texts: texts.size });
    const whole = new Set(
      plan.features
        .filter((each) => ["smallint", "integer", "bigint"].includes(each.type))
        .map((each) => each.name),
    );
    for (const { name, kind } of features) {
      const rows = await session.run(
        aloneSql(
          quoteTable(frame),
          where,
          name,
          kind,
          Math.min(1, ALONE_ROWS / prepared.rows),
          classCount(task),
        ),
        `“${name}” alone against the target`,
      );
      const groups = rows.map((row): AloneGroup => ({
        rows: Number(row["rows"]),
        sum: Number(row["sum"] ?? 0),
        squares: Number(row["squares"] ?? 0),
        classes: Array.from({ length: classCount(task) > 2 ? classCount(task) : 0 }, (_, code) =>
          Number(row[`c${code}`] ?? 0),
        ),
      }));
      const values = rows.reduce((sum, row) => sum + Number(row["values"] ?? 0), 0);
      const total = groups.reduce((sum, each) => sum + each.rows, 0);
      const key = kind === "category" || whole.has(name) ? keyFinding(name, values, total) : undefined;
      const alone = key
        ? undefined
        : aloneFinding(
            task.kind,
            name,
            aloneStrength(task.kind === "classes" && classCount(task) === 2 ? "binary" : task.kind, groups),
          );
      found.push(...[key, alone].filter((each) => each !== undefined));
    }
    const equal = await equalRows(shop, prepared);
    if (equal) found.push(equal);
    await shop.recorder.warn(
      found.map((each) => ({
        code: each.code,
        severity: "warning" as const,
        message: each.message,
        ...(each.hint === undefined ? {} : { hint: each.hint }),
      })),
    );
    return {
      value: dedupe(found),
      detail: found.length === 0 ? "nothing suspicious" : `${found.length} to look at`,
    };
  });
}

/** One finding per feature and code. */
function dedupe(found: readonly Finding[]): readonly Finding[] {
  return found.filter(
    (each, index) =>
      found.findIndex((other) => other.code === each.code && other.feature === each.feature) === index,
  );
}

/** The numbers that are looked at one by one: all of them, or of very many those that go with the target most. */
async function worthALook(
  shop: Workshop,
  { frame, shape }: PreparedFrame,
  numbers: readonly string[],
  where: string,
): Promise<readonly string[]> {
  if (numbers.length <= MOST_NUMBERS) return numbers;
  const classes = classCount(taskOf(shop.plan, shape));
  const merits = new Map<string, number>();
  for (const names of chunks(numbers, Math.max(1, Math.floor(MOST_SCREENED / Math.max(1, classes))))) {
    const [row] = await shop.session.run(
      screenSql(quoteTable(frame), where, names, classes),
      "which features go with the target",
    );
    const found = readScreen(row ?? {}, names.length, classes);
    names.forEach((name, index) => merits.set(name, found[index]!));
  }
  return [...numbers].sort((left, right) => merits.get(right)! - merits.get(left)!).slice(0, MOST_NUMBERS);
}

/** Says what the guard did not look at. */
async function noteLeftOut(
  { recorder }: Workshop,
  { rows }: PreparedFrame,
  { numbers, looked, texts }: Readonly<Record<"numbers" | "looked" | "texts", number>>,
): Promise<void> {
  if (looked < numbers)
    await recorder.say(
      "info",
      `The guard held all ${formatNumber(numbers)} numbers against the target, and looked one by one at the ${formatNumber(looked)} that go with it most.`,
    );
  if (texts > 0)
    await recorder.say(
      "info",
      `The guard did not look at the ${formatNumber(texts)} terms of texts one by one.`,
    );
  if (rows > EQUAL_ROWS)
    await recorder.say(
      "info",
      `The guard did not look for holdout rows that equal training rows: it does so up to ${formatNumber(EQUAL_ROWS)} rows.`,
    );
}

async function equalRows(
  shop: Workshop,
  { frame, shape, rows }: PreparedFrame,
): Promise<Finding | undefined> {
  const features = [...shape.numbers, ...shape.categories.map((each) => each.column)];
  // Few columns repeat by chance.
  if (features.length < 4 || rows > EQUAL_ROWS) return undefined;
  const digest = `md5(ROW(${features.map(quoteIdentifier).join(", ")})::text)`;
  const part = quoteIdentifier(PART_COLUMN);
  const [row] = await shop.session.run(
    `WITH training AS (SELECT DISTINCT ${digest} AS digest FROM ${quoteTable(frame)} WHERE ${part} = ${TRAINING_PART}) SELECT count(*) AS rows, count(training.digest) AS equal FROM (SELECT ${digest} AS digest FROM ${quoteTable(frame)} WHERE ${part} = ${HOLDOUT_PART}) AS held LEFT JOIN training USING (digest)`,
    `holdout rows that equal one of ${formatNumber(rows)} others`,
  );
  const [equal, held] = [Number(row?.["equal"] ?? 0), Number(row?.["rows"] ?? 0)];
  if (!manyEqual(equal, held)) return undefined;
  const agreements = features.map(
    (name, index) =>
      `(SELECT sum(n * n) / sum(n) ^ 2 FROM (SELECT count(*)::double precision AS n FROM ${quoteTable(frame)} WHERE ${part} = ${TRAINING_PART} GROUP BY ${quoteIdentifier(name)}) AS g${index}) AS a${index}`,
  );
  const [chance] = await shop.session.run(
    `SELECT ${agreements.join(", ")}`,
    "how often rows agree by chance",
  );
  const expected = expectedEqual(
    features.map((_, index) => Number(chance?.[`a${index}`] ?? 0)),
    rows - held,
  );
  return equalRowsFinding(equal, held, expected);
}
