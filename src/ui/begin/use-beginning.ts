"use client";
import { useMemo, useState } from "react";
import { newPipelineText } from "@/core/pipeline/edit/new-pipeline";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import { parseTableName } from "@/core/pipeline/table-name";
import type { Problem } from "@/core/problem";
import type { PlacedProfile } from "@/runs/draft/profile-at";
import { useSettled } from "../basic/use-settled";
import { useRead } from "../queries/use-read";
import { usePosted } from "../queries/use-posted";
import { fieldProblems, type FieldProblems, type KeyState } from "./field-problems";
import { answerQuestion, isAnswerSaid } from "./answer-question";
import { beginningOf, NOTHING_DRAWN, targetOf, type Beginning, type Wishes } from "./wishes";

const PAUSE_MILLISECONDS = 300;
const NOTHING: readonly Problem[] = [];

/** All that a form for a new pipeline shows. */
export interface BeginningState {
  readonly wishes: Wishes;
  readonly change: (wished: Partial<Wishes>) => void;
  readonly outline: TableOutline | undefined;
  /** Why the table could not be looked at. */
  readonly failure: string | undefined;
  /** The answer's values, once they were looked at; or why they could not be. */
  readonly answer: PlacedProfile | undefined;
  readonly answerFailure: string | undefined;
  readonly beginning: Beginning;
  readonly problems: FieldProblems;
  /** The file as it would be made. */
  readonly text: string;
}

const NEW: Wishes = {
  question: "",
  table: "",
  answer: "",
  expression: "",
  drawn: NOTHING_DRAWN,
  without: [],
};
/** What is forgotten when another answer, or another table, is chosen: it is proposed anew. */
const AFTER_ANSWER = {
  kind: undefined,
  positive: undefined,
  negative: undefined,
  learner: undefined,
  drawn: NOTHING_DRAWN,
  without: [],
};
const AFTER: Readonly<Partial<Record<keyof Wishes, object>>> = {
  answer: AFTER_ANSWER,
  kind: { positive: undefined, negative: undefined, learner: undefined },
  table: { ...AFTER_ANSWER, key: undefined, answer: "", expression: "" },
};

/** What was said of a new pipeline, what is proposed for the rest, and what is still missing. */
export function useBeginning(table: string | undefined, taken: readonly string[]): BeginningState {
  const [wishes, setWishes] = useState<Wishes>({ ...NEW, table: table ?? "" });
  const change = (wished: Partial<Wishes>): void =>
    setWishes((now) => {
      const forgotten = Object.keys(wished).map((field) => AFTER[field as keyof Wishes]);
      return dropUndefined(Object.assign({}, now, ...forgotten, wished) as Wishes);
    });
  const reference = parseTableName(wishes.table);
  const query =
    reference &&
    `schema=${encodeURIComponent(reference.schema)}&table=${encodeURIComponent(reference.table)}`;
  const { value: outline, failure } = useRead<TableOutline>(query && `/api/tables/outline?${query}`);
  const expression = useSettled(wishes.expression, PAUSE_MILLISECONDS);
  const target = targetOf({ ...wishes, expression }, outline);
  // Only the answer's values are asked for here, so that the key can be any column.
  const question =
    outline && isAnswerSaid(target) ? answerQuestion(wishes.table, outline, target) : undefined;
  const { value: answer, failure: answerFailure } = usePosted<PlacedProfile | null>(
    question && "/api/draft/profile",
    { ...question, strand: reference?.table },
  );
  const beginning = beginningOf(wishes, { outline, answer: answer ?? undefined, taken });
  const { key } = beginning.pipeline;
  const kept = outline?.keys.some((names) => names.join("\0") === key.join("\0"));
  const { value: state } = usePosted<KeyState>(
    reference && outline && key.length > 0 && !kept ? "/api/tables/key" : undefined,
    { ...reference, columns: key },
  );
  const text = newPipelineText(beginning.pipeline);
  const settled = useSettled(text, PAUSE_MILLISECONDS);
  const complete = isAnswerSaid(target) && key.length > 0 && beginning.pipeline.name !== "";
  const { value: survey } = usePosted<{ readonly problems: readonly Problem[] }>(
    complete ? "/api/draft/survey" : undefined,
    { text: settled },
  );
  const problems = useMemo(
    () =>
      fieldProblems(wishes, beginning, {
        taken,
        key: state,
        file: survey?.problems ?? NOTHING,
        answer: answer ? "known" : (answerFailure ?? "awaited"),
      }),
    [wishes, beginning, taken, state, survey, answer, answerFailure],
  );
  return {
    wishes,
    change,
    outline,
    failure,
    answer: answer ?? undefined,
    answerFailure,
    beginning,
    problems,
    text,
  };
}

const dropUndefined = (wishes: Wishes): Wishes =>
  Object.fromEntries(Object.entries(wishes).filter(([, value]) => value !== undefined)) as unknown as Wishes;
