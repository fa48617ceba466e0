import { zeros } from "../../numeric/cholesky";
import type { Design } from "../linear/design";
import type { Curvature, Slope } from "../questions";
import { scaleGradient, type CrossStatement, type SlopeStatement } from "./slope-sql";
import type { ClassStatement } from "./class-slope-sql";

/** A row as the driver gives it, numbers only. */
export type AnswerRow = Readonly<Record<string, number | null>>;

const value = (row: AnswerRow, name: string): number => row[name] ?? 0;

/** Puts the answers to {@link slopeSql} together. `answers[i]` are the rows of statement i. */
export function readSlope(
  design: Design,
  scaled: boolean,
  statements: readonly SlopeStatement[],
  answers: readonly (readonly AnswerRow[])[],
): Slope {
  const raw = new Float64Array(design.terms.length);
  let rows = 0;
  let loss = 0;
  statements.forEach((statement, index) => {
    for (const row of answers[index] ?? []) {
      if (statement.withLoss) {
        rows = value(row, "rows");
        loss = value(row, "loss");
        raw[0] = value(row, "g0");
      }
      for (const place of statement.places) raw[place.position] = value(row, place.result);
      if (statement.category !== undefined) {
        const position = design.categories[statement.category]!.positions[value(row, "code")] ?? -1;
        if (position >= 0) raw[position] = value(row, "s0");
      }
    }
  });
  return { rows, loss, gradient: scaleGradient(design, scaled, raw) };
}

/** Puts the answers to {@link curvatureSql} together, on the solver's scale. */
export function readCurvature(
  design: Design,
  statements: readonly CrossStatement[],
  answers: readonly (readonly AnswerRow[])[],
): Curvature {
  const size = design.terms.length;
  const hessian = zeros(size);
  const gradient = new Float64Array(size);
  const set = (i: number, j: number, weight: number): void => {
    // Levels are 0/1 columns divided by their spread; numbers were scaled in the statement.
    const scale = (index: number): number =>
      design.terms[index]!.kind === "level" ? design.spreads[index]! : 1;
    const scaled = weight / (scale(i) * scale(j));
    hessian[i]![j] = scaled;
    hessian[j]![i] = scaled;
  };
  let rows = 0;
  let loss = 0;
  statements.forEach((statement, index) => {
    for (const row of answers[index] ?? []) {
      if (statement.withSlope) {
        rows = value(row, "rows");
        loss = value(row, "loss");
        for (let index = 0; index <= design.numbers.length; index += 1) {
          gradient[index] = value(row, `g${index}`);
          set(index, 0, value(row, `w${index}`));
        }
      }
      statement.pairs.forEach(([i, j], place) => set(i, j, value(row, `h${place}`)));
      const positionOf = (category: number, code: string): number =>
        design.categories[category]!.positions[value(row, code)] ?? -1;
      if (statement.kind === "level") {
        const position = positionOf(statement.categories[0]!, "code");
        if (position < 0) continue;
        gradient[position] = value(row, "r") / design.spreads[position]!;
        set(position, position, value(row, "w"));
        set(position, 0, value(row, "w"));
        for (let index = 1; index <= design.numbers.length; index += 1)
          set(position, index, value(row, `w${index}`));
      }
      if (statement.kind === "levels") {
        const left = positionOf(statement.categories[0]!, "code");
        const right = positionOf(statement.categories[1]!, "other");
        if (left >= 0 && right >= 0) set(left, right, value(row, "w"));
      }
    }
  });
  return { rows, loss, gradient, hessian };
}

/** Puts the answers to {@link classSlopeSql} together: the gradients of all classes but the first, one after the other. */
export function readClassSlope(
  design: Design,
  scaled: boolean,
  outputs: number,
  statements: readonly ClassStatement[],
  answers: readonly (readonly AnswerRow[])[],
): Slope {
  const size = design.terms.length;
  const raw = Array.from({ length: outputs }, () => new Float64Array(size));
  let rows = 0;
  let loss = 0;
  statements.forEach((statement, index) => {
    for (const row of answers[index] ?? []) {
      if (statement.withLoss) {
        rows = value(row, "rows");
        loss = value(row, "loss");
      }
      for (const place of statement.places) raw[place.output]![place.position] = value(row, place.result);
      if (statement.category === undefined) continue;
      const position = design.categories[statement.category]!.positions[value(row, "code")] ?? -1;
      if (position >= 0)
        raw.forEach((gradient, output) => {
          gradient[position] = value(row, `s${output}`);
        });
    }
  });
  const gradient = new Float64Array(outputs * size);
  raw.forEach((array, output) => gradient.set(scaleGradient(design, scaled, array), output * size));
  return { rows, loss, gradient };
}
