import type { NewPipeline, NewTarget } from "@/core/pipeline/edit/new-pipeline";
import type { ColumnOutline, TableOutline } from "@/core/pipeline/proposal/outline";
import { proposeKey, type KeyProposal } from "@/core/pipeline/proposal/propose-key";
import { proposeName } from "@/core/pipeline/proposal/propose-name";
import { proposePreparation, type Preparation } from "@/core/pipeline/proposal/propose-preparation";
import { proposeTarget } from "@/core/pipeline/proposal/propose-target";
import type { TargetKind } from "@/core/pipeline/schema";
import { parseTableName } from "@/core/pipeline/table-name";
import { isInteger, isMoment, isNumber, type ValueType } from "@/core/value-type";
import type { PlacedProfile } from "@/runs/draft/profile-at";
import { freeTitle } from "../basic/free-title";
import { sidesInFile, textsOf, type Sides } from "../target/target-values";
import { FROM_EXPRESSION, FROM_REGIONS, type Choices, type RegionChoices } from "./choices";

/** What is known of the table and of the target's values, as far as they were read. */
export interface Known {
  readonly outline: TableOutline | undefined;
  readonly profile: PlacedProfile | undefined;
  /** Names that pipelines have. */
  readonly taken: readonly string[];
}

/** A pipeline to start from: what was chosen, and for the rest what the table suggests. */
export interface Proposal {
  readonly pipeline: NewPipeline;
  readonly key: KeyProposal | undefined;
  readonly kind: TargetKind;
  /** Which values are positive and negative; undefined where the type says so itself. */
  readonly sides: Sides | undefined;
  readonly targetType: ValueType;
  /** Why the target cannot be predicted as it is. */
  readonly trouble: string | undefined;
  /** All that could be done to columns, including what was left out. */
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

/** The column by which earlier rows are found: as chosen, else the first that can say so. */
export const orderOf = ({ order }: RegionChoices, outline: TableOutline): string =>
  order ?? orderColumns(outline)[0] ?? "";

const freeColumn = (wanted: string, outline: TableOutline | undefined): string =>
  freeTitle(wanted, outline?.columns.map(({ name }) => name) ?? []);

/** The name of the column that an expression for the target makes; the table has none of that name. */
export const derivedColumn = (outline: TableOutline | undefined): string => freeColumn("target", outline);

/** What the target of the pipeline would be. */
export function targetOf(choices: Choices, outline: TableOutline | undefined): NewTarget {
  if (choices.target === FROM_EXPRESSION)
    return { expression: choices.expression, into: derivedColumn(outline) };
  if (choices.target !== FROM_REGIONS || !outline) return { column: choices.target };
  const { x, y, entity, regions, otherwise } = choices.drawn;
  const order = orderOf(choices.drawn, outline);
  const scales = { entity, order, columns: scaledColumns(outline, [entity, order, ...(choices.key ?? [])]) };
  return {
    drawn: {
      x,
      y,
      regions,
      ...(otherwise.trim() === "" ? {} : { otherwise: otherwise.trim() }),
      into: freeColumn("label", outline),
      ...(entity === "" ? {} : { scales }),
    },
  };
}

function columnOf(target: NewTarget): string {
  if ("column" in target) return target.column === FROM_REGIONS ? "" : target.column;
  return "expression" in target ? target.into : target.drawn.into;
}

/** Columns that the target is made of, which are left as they are. */
function sourcesOf(target: NewTarget): readonly string[] {
  if (!("drawn" in target)) return [columnOf(target)];
  const { x, y, scales } = target.drawn;
  return [x, y, ...(scales ? [scales.entity, scales.order] : [])];
}

/** Puts together what was chosen and what is proposed. */
export function proposePipeline(choices: Choices, { outline, profile, taken }: Known): Proposal {
  const target = targetOf(choices, outline);
  const column = columnOf(target);
  const proposed = profile && proposeTarget(profile.profile, profile.type);
  const key = outline && proposeKey(outline);
  const names = choices.key ?? key?.columns.filter((name) => name !== column) ?? [];
  const kind = choices.kind ?? proposed?.kind ?? "binary";
  const needsPositive =
    kind === "binary" && column !== "" && profile !== undefined && profile.type !== "boolean";
  const sides = needsPositive
    ? { positive: choices.positive ?? textsOf(proposed?.positive), negative: choices.negative ?? [] }
    : undefined;
  const preparations =
    outline && column !== "" ? proposePreparation(outline, [...names, ...sourcesOf(target)]) : [];
  return {
    key,
    kind,
    sides,
    targetType: profile?.type ?? "other",
    trouble: proposed?.trouble,
    preparations,
    pipeline: {
      name: (choices.name ?? proposeName(parseTableName(choices.table)?.table ?? "", column, taken)).trim(),
      question: choices.question,
      table: choices.table,
      key: names,
      target,
      kind,
      learner: choices.learner,
      preparation: preparations.filter(({ id }) => !choices.without.includes(id)),
      ...(sides && profile ? sidesInFile(sides, profile.type) : {}),
    },
  };
}
