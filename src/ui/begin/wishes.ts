import { sidesInFile, textsOf, type Sides } from "../answer/answer-values";
import type { NewPipeline } from "@/core/pipeline/edit/new-pipeline";
import type { ColumnOutline, TableOutline } from "@/core/pipeline/proposal/outline";
import { proposeAnswer } from "@/core/pipeline/proposal/propose-answer";
import { proposeKey, type KeyProposal } from "@/core/pipeline/proposal/propose-key";
import { proposeName } from "@/core/pipeline/proposal/propose-name";
import { proposePreparation, type Preparation } from "@/core/pipeline/proposal/propose-preparation";
import type { TargetKind } from "@/core/pipeline/schema";
import { parseTableName } from "@/core/pipeline/table-name";
import type { Algorithm } from "@/core/learn/algorithms";
import { isInteger, isMoment, isNumber, type ValueType } from "@/core/value-type";
import type { PlacedProfile } from "@/runs/draft/profile-at";
import { freeTitle } from "../basic/free-title";
import type { Region } from "../regions/region";

/** Stands in the list of columns for an answer that an expression makes. */
export const FROM_EXPRESSION = "=";
/** The column that such an expression makes. */
export const MADE_ANSWER = "answer";

/** Stands in the list of columns for an answer that is drawn as regions. */
export const FROM_REGIONS = "#";

/** What a person has said of regions so far. */
export interface DrawnWishes {
  readonly x: string;
  readonly y: string;
  /** The column whose values each have a scale of their own; empty when all rows have one. */
  readonly entity: string;
  /** The column by which earlier rows are found; proposed when left out. */
  readonly order?: string;
  readonly regions: readonly Region[];
  readonly otherwise: string;
}
export const NOTHING_DRAWN: DrawnWishes = { x: "", y: "", entity: "", regions: [], otherwise: "" };

/** What a person has said so far; what was not said is proposed. */
export interface Wishes {
  readonly name?: string;
  readonly question: string;
  readonly table: string;
  readonly key?: readonly string[];
  /** A column, {@link FROM_EXPRESSION}, {@link FROM_REGIONS}, or nothing yet. */
  readonly answer: string;
  readonly expression: string;
  readonly drawn: DrawnWishes;
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

/** Columns that can tell entities apart: texts, and numbers with few values. */
export const entityColumns = ({ columns, close }: TableOutline): readonly string[] =>
  columns
    .filter(
      ({ type, distinct }) => (type === "text" || isInteger(type)) && distinct > 1 && distinct < close / 4,
    )
    .map(({ name }) => name);

/** Columns that can say which rows are earlier: moments first, then numbers. */
export const orderColumns = ({ columns }: TableOutline): readonly string[] => [
  ...columns.filter(({ type }) => isMoment(type)).map(({ name }) => name),
  ...columns.filter(({ type }) => isNumber(type)).map(({ name }) => name),
];

/** Numbers that are put on one scale: all but those that number rows, tell entities apart or order them. */
function scaledColumns({ columns, close }: TableOutline, not: readonly string[]): readonly string[] {
  const numbering = (column: ColumnOutline): boolean =>
    isInteger(column.type) && column.distinct === close && column.missing === 0;
  return columns
    .filter((column) => isNumber(column.type) && !numbering(column) && !not.includes(column.name))
    .map(({ name }) => name);
}

/** What the answer of the pipeline would be. */
export function targetOf(wishes: Wishes, outline: TableOutline | undefined): NewPipeline["target"] {
  if (wishes.answer === FROM_EXPRESSION) return { expression: wishes.expression };
  if (wishes.answer !== FROM_REGIONS || !outline) return { column: wishes.answer };
  const { x, y, entity, regions, otherwise } = wishes.drawn;
  const order = orderOf(wishes.drawn, outline);
  return {
    drawn: {
      x,
      y,
      regions,
      ...(otherwise.trim() === "" ? {} : { otherwise: otherwise.trim() }),
      into: freeTitle(
        "label",
        outline.columns.map(({ name }) => name),
      ),
      ...(entity === ""
        ? {}
        : {
            scales: {
              entity,
              order,
              columns: scaledColumns(outline, [entity, order, ...(wishes.key ?? [])]),
            },
          }),
    },
  };
}

/** The column by which earlier rows are found: as said, else the first that can say so. */
export const orderOf = ({ order }: DrawnWishes, outline: TableOutline): string =>
  order ?? orderColumns(outline)[0] ?? "";

function columnOf(target: NewPipeline["target"]): string {
  if ("column" in target) return target.column === FROM_REGIONS ? "" : target.column;
  return "expression" in target ? MADE_ANSWER : target.drawn.into;
}

/** Puts together what was said and what is proposed. */
export function beginningOf(wishes: Wishes, { outline, answer, taken }: Known): Beginning {
  const target = targetOf(wishes, outline);
  const column = columnOf(target);
  const drawn = "drawn" in target ? target.drawn : undefined;
  const proposal = answer && proposeAnswer(answer.profile, answer.type);
  const key = outline && proposeKey(outline);
  const names = wishes.key ?? key?.columns.filter((name) => name !== column) ?? [];
  const kind = wishes.kind ?? proposal?.kind ?? "binary";
  const needsPositive =
    kind === "binary" && column !== "" && answer !== undefined && answer.type !== "boolean";
  const sides = needsPositive
    ? { positive: wishes.positive ?? textsOf(proposal?.positive), negative: wishes.negative ?? [] }
    : undefined;
  const scales = drawn?.scales;
  const spoken = drawn ? [drawn.x, drawn.y, ...(scales ? [scales.entity, scales.order] : [])] : [column];
  const preparations = outline && column !== "" ? proposePreparation(outline, [...names, ...spoken]) : [];
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
      target,
      kind,
      learner: wishes.learner,
      preparation: preparations.filter(({ id }) => !wishes.without.includes(id)),
      ...(sides && answer ? sidesInFile(sides, answer.type) : {}),
    },
  };
}
