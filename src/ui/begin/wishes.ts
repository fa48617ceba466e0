import { sidesInFile, textsOf, type Sides } from "../answer/answer-values";
import type { NewPipeline } from "@/core/pipeline/edit/new-pipeline";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import { proposeAnswer } from "@/core/pipeline/proposal/propose-answer";
import { proposeKey, type KeyProposal } from "@/core/pipeline/proposal/propose-key";
import { proposeName } from "@/core/pipeline/proposal/propose-name";
import { proposePreparation, type Preparation } from "@/core/pipeline/proposal/propose-preparation";
import type { TargetKind } from "@/core/pipeline/schema";
import { parseTableName } from "@/core/pipeline/table-name";
import type { Algorithm } from "@/core/learn/algorithms";
import type { ValueType } from "@/core/value-type";
import type { PlacedProfile } from "@/runs/draft/profile-at";

/** Stands in the list of columns for an answer that an expression makes. */
export const FROM_EXPRESSION = "=";
/** The column that such an expression makes. */
export const MADE_ANSWER = "answer";

/** What a person has said so far; what was not said is proposed. */
export interface Wishes {
  readonly name?: string;
  readonly question: string;
  readonly table: string;
  readonly key?: readonly string[];
  /** A column, {@link FROM_EXPRESSION}, or nothing yet. */
  readonly answer: string;
  readonly expression: string;
  readonly kind?: TargetKind;
  readonly positive?: readonly string[];
  readonly negative?: readonly string[];
  readonly learner?: Algorithm;
  /** Preparations that shall not be made. */
  readonly without: readonly string[];
}

/** What is known of the table and of the answer's values, as far as they were looked at. */
export interface Known {
  readonly outline: TableOutline | undefined;
  readonly answer: PlacedProfile | undefined;
  /** Names that pipelines have. */
  readonly taken: readonly string[];
}

/** A pipeline to begin with: what was said, and for the rest what the table suggests. */
export interface Beginning {
  readonly pipeline: NewPipeline;
  readonly key: KeyProposal | undefined;
  readonly kind: TargetKind;
  /** Which values are positive and negative; undefined where the answer says so itself. */
  readonly sides: Sides | undefined;
  readonly answerType: ValueType;
  /** Why the answer cannot be predicted as it is. */
  readonly trouble: string | undefined;
  /** All that could be done to columns; what is not wanted as well. */
  readonly preparations: readonly Preparation[];
}

/** Puts together what was said and what is proposed. */
export function beginningOf(wishes: Wishes, { outline, answer, taken }: Known): Beginning {
  const made = wishes.answer === FROM_EXPRESSION;
  const column = made ? MADE_ANSWER : wishes.answer;
  const proposal = answer && proposeAnswer(answer.profile, answer.type);
  const key = outline && proposeKey(outline);
  const names = wishes.key ?? key?.columns.filter((name) => name !== column) ?? [];
  const kind = wishes.kind ?? proposal?.kind ?? "binary";
  const needsPositive =
    kind === "binary" && column !== "" && answer !== undefined && answer.type !== "boolean";
  const sides = needsPositive
    ? { positive: wishes.positive ?? textsOf(proposal?.positive), negative: wishes.negative ?? [] }
    : undefined;
  const preparations = outline && column !== "" ? proposePreparation(outline, [...names, column]) : [];
  return {
    key,
    kind,
    sides,
    answerType: answer?.type ?? "other",
    trouble: proposal?.trouble,
    preparations,
    pipeline: {
      name: (wishes.name ?? proposeName(parseTableName(wishes.table)?.table ?? "", column, taken)).trim(),
      question: wishes.question,
      table: wishes.table,
      key: names,
      target: made ? { expression: wishes.expression } : { column },
      kind,
      learner: wishes.learner,
      preparation: preparations.filter(({ id }) => !wishes.without.includes(id)),
      ...(sides && answer ? sidesInFile(sides, answer.type) : {}),
    },
  };
}
