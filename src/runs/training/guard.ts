import { formatNumber } from "@/core/format/numbers";
import { aloneFinding, keyFinding, planFindings } from "@/core/guard/findings";
import { equalRowsFinding, expectedEqual, manyEqual } from "@/core/guard/equal-rows";
import { aloneStrength, type AloneAnswer, type AloneFeature } from "@/core/guard/alone";
import { aloneColumns, aloneQuestion, featuresInOnePass, screenQuestion } from "@/core/questions/alone";
import { agreementsQuestion, equalRowsQuestion } from "@/core/questions/equal-rows";
import { rowCountQuestion } from "@/core/questions/row-count";
import { rowsOfPart, trainingRows } from "@/core/questions/training-rows";
import { keepColumns, table } from "@/core/relation/relation";
import type { Finding } from "@/core/evaluate/judgement";
import { chunks } from "@/core/questions/result-columns";
import { classCount } from "@/core/learn/task";
import { taskOf } from "@/core/plan/frame";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { HOLDOUT_PART } from "@/core/plan/split";
import type { PreparedFrame } from "./prepare";
import { type Workshop } from "./workshop";

/** Numbers looked at one by one, each in a statement; and correlations asked for in one. */
const [MOST_NUMBERS, MOST_SCREENED] = [200, 1000];
/** Rows on which features are looked at alone; and of how many the holdout rows are held against all training rows. */
const [ALONE_ROWS, EQUAL_ROWS] = [50_000, 400_000];

/** Looks for answers in the data before anything is trained. Nothing is stopped by it: what is found is kept with the trial, and said. */
export async function guardBefore(shop: Workshop, prepared: PreparedFrame): Promise<readonly Finding[]> {
  const { plan } = shop;
  const { shape } = prepared;
  const task = taskOf(plan, shape);
  return shop.recorder.doing("check for leakage", async () => {
    const found: Finding[] = [...planFindings(plan)];
    const texts = new Set((shape.texts ?? []).flat());
    const numbers = shape.numbers.filter((name) => !texts.has(name));
    const looked = await worthALook(shop, prepared, numbers);
    const features = [
      ...looked.map((name) => ({ name, kind: "number" as const })),
      ...shape.categories.map(({ column }) => ({ name: column, kind: "category" as const })),
    ];
    await noteLeftOut(shop, { numbers: numbers.length, looked: looked.length, texts: texts.size });
    const twoOrMore = task.kind === "classes" && classCount(task) === 2 ? "binary" : task.kind;
    const whole = new Set(
      plan.features
        .filter((feature) => ["smallint", "integer", "bigint"].includes(feature.type))
        .map((feature) => feature.name),
    );
    const alone = await lookAlone(shop, prepared, features);
    features.forEach(({ name, kind }, index) => {
      const { groups, values } = alone[index]!;
      const total = groups.reduce((sum, group) => sum + group.rows, 0);
      const key = kind === "category" || whole.has(name) ? keyFinding(name, values, total) : undefined;
      const strong = key ? undefined : aloneFinding(task.kind, name, aloneStrength(twoOrMore, groups));
      found.push(...[key, strong].filter((finding) => finding !== undefined));
    });
    const equal = await equalRows(shop, prepared);
    if (equal) found.push(equal);
    await shop.recorder.warn(
      found.map((part) => ({
        code: part.code,
        severity: "warning" as const,
        message: part.message,
        ...(part.hint === undefined ? {} : { hint: part.hint }),
      })),
    );
    return {
      value: dedupe(found),
      detail: found.length === 0 ? "nothing suspicious" : `${found.length} to review`,
    };
  });
}

/** Groups of features, many in one pass; of very many rows a sample is looked at, which is said. */
async function lookAlone(
  { plan, session, recorder, scratch }: Workshop,
  { frame, shape, rows }: PreparedFrame,
  features: readonly AloneFeature[],
): Promise<readonly AloneAnswer[]> {
  const classes = classCount(taskOf(plan, shape));
  const names = aloneColumns(features);
  const sampled = rows > ALONE_ROWS;
  const sample = scratch("sample", "guard");
  if (sampled) {
    await session.materialize(
      keepColumns(trainingRows(frame, names, ALONE_ROWS / rows), names),
      sample,
      "sample rows for single-feature checks",
    );
    await recorder.say(
      "info",
      `The guard checked single features on about ${formatNumber(ALONE_ROWS)} of ${formatNumber(rows)} rows, drawn at random.`,
    );
  }
  const looked = sampled ? table(sample, names) : trainingRows(frame, names);
  const groups: AloneAnswer[] = [];
  for (const some of chunks(features, featuresInOnePass(Math.min(rows, ALONE_ROWS)))) {
    recorder.progress("features checked", groups.length, features.length);
    groups.push(...(await session.ask(aloneQuestion(looked, some, classes))));
  }
  if (sampled) await session.drop(sample, "drop the rows drawn for the guard");
  return groups;
}

/** One finding per feature and code. */
function dedupe(found: readonly Finding[]): readonly Finding[] {
  return found.filter(
    (part, index) =>
      found.findIndex((other) => other.code === part.code && other.feature === part.feature) === index,
  );
}

/** The numbers that are looked at one by one: all of them, or of very many those that go with the target most. */
async function worthALook(
  shop: Workshop,
  { frame, shape }: PreparedFrame,
  numbers: readonly string[],
): Promise<readonly string[]> {
  if (numbers.length <= MOST_NUMBERS) return numbers;
  const classes = classCount(taskOf(shop.plan, shape));
  const merits = new Map<string, number>();
  for (const names of chunks(numbers, Math.max(1, Math.floor(MOST_SCREENED / Math.max(1, classes))))) {
    const rows = trainingRows(frame, [TARGET_COLUMN, ...names]);
    const found = await shop.session.ask(screenQuestion(rows, names, classes));
    names.forEach((name, index) => merits.set(name, found[index]!));
  }
  return [...numbers].sort((left, right) => merits.get(right)! - merits.get(left)!).slice(0, MOST_NUMBERS);
}

/** Says what the guard did not look at. */
async function noteLeftOut(
  { recorder }: Workshop,
  { numbers, looked, texts }: Readonly<Record<"numbers" | "looked" | "texts", number>>,
): Promise<void> {
  if (looked < numbers)
    await recorder.say(
      "info",
      `The guard compared all ${formatNumber(numbers)} numbers with the target, and checked individually the ${formatNumber(looked)} with the strongest correlation.`,
    );
  if (texts > 0)
    await recorder.say("info", `The guard did not check the ${formatNumber(texts)} text terms individually.`);
}

/** Holdout rows that equal training rows; of very many rows, a share of them is held against all training rows, which is said. */
async function equalRows(
  { session, recorder }: Workshop,
  { frame, shape, rows }: PreparedFrame,
): Promise<Finding | undefined> {
  const features = [...shape.numbers, ...shape.categories.map((category) => category.column)];
  // Few columns repeat by chance.
  if (features.length < 4) return undefined;
  const share = Math.min(1, EQUAL_ROWS / rows);
  const holdout = rowsOfPart(frame, [], HOLDOUT_PART);
  const counted = {
    held: await session.ask(rowCountQuestion(holdout, "rows of the holdout")),
    ...(await session.ask(equalRowsQuestion(frame, features, share))),
  };
  if (counted.looked < counted.held)
    await recorder.say(
      "info",
      `The guard compared ${formatNumber(counted.looked)} of ${formatNumber(counted.held)} holdout rows, drawn at random, with all training rows.`,
    );
  if (!manyEqual(counted)) return undefined;
  const agreements: number[] = [];
  for (const some of chunks(features, featuresInOnePass(Math.min(rows, ALONE_ROWS))))
    agreements.push(...(await session.ask(agreementsQuestion(frame, some, Math.min(1, ALONE_ROWS / rows)))));
  return equalRowsFinding(counted, expectedEqual(agreements, rows - counted.held));
}
