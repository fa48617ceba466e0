import type { Expression } from "@/core/expression/ast";
import { columnsOf } from "@/core/expression/visit";
import { doublesFor, integersFor, type ColumnData } from "@/core/learn/memory/column-data";
import type { CategoryLevels } from "@/core/plan/frame";
import { MOMENT_COLUMN, TARGET_COLUMN, WEIGHT_COLUMN } from "@/core/plan/frame-columns";
import { filter, table, type TableReference } from "@/core/relation/relation";
import { DRAW_COLUMN, FOLD_COLUMN } from "@/core/steps/step";
import type { WarehouseSession } from "./port/session";

export interface StreamedFrame {
  readonly frame: TableReference;
  /** Condition for the rows that are streamed. */
  readonly condition: Expression;
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  readonly weighted: boolean;
  readonly timed: boolean;
  readonly folded: boolean;
  /** How many rows there are. */
  readonly rows: number;
}

/**
 * Streams a frame's rows into typed arrays, once.
 * @param progress is called now and then with the number of rows so far; may throw to stop
 */
export async function streamFrame(
  session: WarehouseSession,
  frame: StreamedFrame,
  progress: (rows: number) => void = () => undefined,
): Promise<ColumnData> {
  const { rows } = frame;
  const doubles = (name: string): { readonly name: string; readonly values: Float64Array } => ({
    name,
    values: doublesFor(rows),
  });
  const target = doubles(TARGET_COLUMN);
  const draw = doubles(DRAW_COLUMN);
  const weight = frame.weighted ? doubles(WEIGHT_COLUMN) : undefined;
  const moment = frame.timed ? doubles(MOMENT_COLUMN) : undefined;
  const numbers = frame.numbers.map(doubles);
  const fold = { name: FOLD_COLUMN, values: new Int32Array(frame.folded ? rows : 0) };
  const codes = frame.categories.map((category) => ({ name: category.column, values: integersFor(rows) }));
  const floats = [target, draw, ...(weight ? [weight] : []), ...(moment ? [moment] : []), ...numbers];
  const integers = [...(frame.folded ? [fold] : []), ...codes];
  const names = [...floats, ...integers].map(({ name }) => name);
  const columns = [...new Set([...names, ...columnsOf(frame.condition)])];
  await session.stream(
    {
      relation: filter(table(frame.frame, columns), frame.condition),
      purpose: "stream the training frame to the worker",
      doubles: floats,
      integers,
      rows,
    },
    progress,
  );
  session.leave({ streamed: rows });
  return {
    rows,
    target: target.values,
    draw: draw.values,
    weight: weight?.values,
    moment: moment?.values,
    numbers: numbers.map(({ name, values }) => ({ column: name, values })),
    categories: frame.categories.map((category, place) => ({ ...category, codes: codes[place]!.values })),
    fold: frame.folded ? Int16Array.from(fold.values) : new Int16Array(rows).fill(-1),
  };
}
