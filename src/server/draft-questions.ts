import { z } from "zod";
import type { CheckedPlan } from "@/core/plan/plan";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { valuesOf, pointsOf } from "@/runs/draft/columns";
import { beforeTraining } from "@/runs/draft/before-training";
import { compareColumn } from "@/runs/draft/compare";
import { diagnoseJoin } from "@/runs/draft/diagnose-join";
import { learnedByFold } from "@/runs/draft/folds";
import { followRow } from "@/runs/draft/follow";
import { profileAt } from "@/runs/draft/profile-at";
import { estimatedRows, previewTime, stepCounts, stepPreview } from "@/runs/draft/preview";
import { blockersOf, openDraft, type OpenDraft } from "@/runs/draft/survey";
import { tryExpression } from "@/runs/draft/try-expression";
import { askingFor } from "@/warehouse/asking";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { fileInput, nameInput, textInput } from "./answer/inputs";
import { readInput } from "./answer/read-input";
import { appContext } from "./context";
import { layOutSql } from "./sql-layout";

/** What every question says: the text as it stands in the browser, and the share of rows that is worked on. */
const base = { text: fileInput, share: z.number().gt(0).max(1).default(1) };
const place = { ...base, strand: nameInput, after: z.int().min(0).max(10_000) };

interface Asked {
  readonly plan: CheckedPlan;
  readonly warehouse: Warehouse;
  readonly runTime: string;
}

const SAME_MILLISECONDS = 4000;
let last: { readonly key: string; readonly at: number; readonly draft: Promise<OpenDraft> } | undefined;

/** Many questions come about one text; it is read once, for all who ask. */
function draftOf(text: string, share: number, warehouse: Warehouse): Promise<OpenDraft> {
  const key = `${share} ${text}`;
  if (!last || last.key !== key || Date.now() - last.at > SAME_MILLISECONDS)
    last = { key, at: Date.now(), draft: askingFor(undefined, () => openDraft(text, warehouse, share)) };
  return last.draft;
}

/** A question about a draft: reads its body, and answers, or throws problems. */
type Question = (body: unknown) => Promise<unknown>;

function about<
  Body extends {
    readonly text: string;
    readonly share: number;
    readonly strand: string;
    readonly after: number;
  },
>(
  schema: z.ZodType<Body>,
  answer: (body: Body, asked: Asked) => Promise<unknown>,
  needs: (body: Body) => number = (body) => body.after,
): Question {
  return async (raw) => {
    const body = unwrap(readInput(schema, raw));
    const { warehouse, now } = await appContext();
    const { plan, survey } = await draftOf(body.text, body.share, warehouse);
    const strand = plan?.strands.find((strand) => strand.name === body.strand);
    if (!plan || !strand)
      throw new ProblemError(
        problem("unknown_strand", "Strand not found in this draft.", "Fix the file first."),
      );
    if (body.after > strand.steps.length)
      throw new ProblemError(problem("unknown_step", "Step not found in this draft."));
    const blockers = blockersOf(plan, survey.problems, body.strand, needs(body));
    if (blockers.length > 0) throw new ProblemError(...blockers);
    return answer(body, { plan, warehouse, runTime: previewTime(await now()) });
  };
}

const columnBody = z.object({ ...place, column: nameInput });

const QUESTIONS: Readonly<Record<string, Question>> = {
  survey: async (raw) => {
    const { text, share } = unwrap(readInput(z.object(base), raw));
    return (await draftOf(text, share, (await appContext()).warehouse)).survey;
  },
  training: async (raw) => {
    const { text, share } = unwrap(readInput(z.object(base), raw));
    const { warehouse, now } = await appContext();
    const { plan, survey } = await draftOf(text, share, warehouse);
    // What is wrong with the text itself is said already.
    if (!plan || survey.problems.some(({ severity }) => severity === "error")) return [];
    return beforeTraining(plan, warehouse, previewTime(await now()));
  },
  rows: about(z.object(place), async ({ strand, after }, { plan, warehouse, runTime }) => {
    const preview = await stepPreview(plan, warehouse, strand, after, runTime);
    return { ...preview, sql: layOutSql(preview.sql) };
  }),
  counts: about(z.object(place), ({ strand, after }, { plan, warehouse, runTime }) =>
    stepCounts(plan, warehouse, strand, after, runTime),
  ),
  estimate: about(z.object(place), async ({ strand, after }, { plan, warehouse, runTime }) => ({
    rows: (await estimatedRows(plan, warehouse, strand, after, runTime)) ?? null,
  })),
  compare: about(columnBody, ({ strand, after, column }, { plan, warehouse, runTime }) =>
    compareColumn(plan, warehouse, strand, after, runTime, column),
  ),
  profile: about(
    columnBody,
    async ({ strand, after, column }, { plan, warehouse, runTime }) =>
      (await profileAt(plan, warehouse, { strand, after, column }, runTime)) ?? null,
  ),
  join: about(z.object(place), ({ strand, after }, { plan, warehouse, runTime }) =>
    diagnoseJoin(plan, warehouse, strand, after, runTime),
  ),
  folds: about(z.object(place), ({ after }, { plan, warehouse, runTime }) =>
    learnedByFold(plan, warehouse, after - 1, runTime),
  ),
  values: about(columnBody, ({ strand, after, column }, { plan, warehouse, runTime }) =>
    valuesOf(plan, warehouse, strand, after, runTime, column),
  ),
  points: about(
    z.object({ ...place, x: nameInput, y: nameInput, colour: nameInput.optional() }),
    ({ strand, after, ...wanted }, { plan, warehouse, runTime }) =>
      pointsOf(plan, warehouse, strand, after, runTime, wanted),
  ),
  expression: about(
    z.object({
      ...place,
      expression: textInput(20_000),
      kind: z.enum(["value", "aggregate"]).default("value"),
      by: z.array(nameInput).default([]),
      other: nameInput.optional(),
    }),
    ({ strand, after, ...wanted }, { plan, warehouse, runTime }) =>
      tryExpression(plan, warehouse, strand, after, runTime, wanted),
  ),
  follow: about(
    z.object({ ...place, key: z.array(fileInput).min(1) }),
    ({ key }, { plan, warehouse, runTime }) => followRow(plan, warehouse, key, runTime),
  ),
};

/** Answers a named question about a draft; undefined when there is no such question. */
export async function askDraft(
  question: string,
  body: unknown,
): Promise<{ readonly answer: unknown } | undefined> {
  const known = Object.hasOwn(QUESTIONS, question) ? QUESTIONS[question] : undefined;
  return known ? { answer: await known(body) } : undefined;
}
