import {
  newPipelineText,
  scaleStep,
  type NewTarget,
  type OwnScales,
} from "@/core/pipeline/edit/new-pipeline";
import type { TableOutline } from "@/core/pipeline/proposal/outline";

/** A question about a column after some steps of a text. */
export interface ColumnQuestion {
  readonly text: string;
  readonly after: number;
  readonly column: string;
}

/** Whether enough was chosen of the target for its values to be looked at. */
export function isTargetChosen(target: NewTarget): boolean {
  if ("column" in target) return target.column !== "";
  if ("expression" in target) return target.expression.trim() !== "";
  const { x, y, regions } = target.drawn;
  return x !== "" && y !== "" && regions.length > 0;
}

/** How the values of a target are asked for, whatever the key will be. */
export function targetQuestion(table: string, outline: TableOutline, target: NewTarget): ColumnQuestion {
  const text = newPipelineText({
    name: "new",
    question: "",
    table,
    key: [outline.columns[0]!.name],
    target,
    kind: "classes",
  });
  if ("column" in target) return { text, after: 0, column: target.column };
  if ("expression" in target) return { text, after: 1, column: target.into };
  return { text, after: target.drawn.scales ? 2 : 1, column: target.drawn.into };
}

/**
 * Where the points are found over which regions are drawn: a text with the scales of entities and nothing
 * else.
 */
export function pointsQuestion(
  table: string,
  outline: TableOutline,
  scales: OwnScales | undefined,
): Omit<ColumnQuestion, "column"> {
  const [first] = outline.columns;
  const text = newPipelineText({
    name: "new",
    question: "",
    table,
    key: [first!.name],
    target: { column: first!.name },
    kind: "classes",
    preparation: scales ? [{ id: "scales", says: "", columns: scales.columns, step: scaleStep(scales) }] : [],
  });
  return { text, after: scales ? 1 : 0 };
}
