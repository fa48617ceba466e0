import { leftOutRows } from "@/core/plan/division-counts";
import { rowsQuestion } from "@/core/questions/rows";
import { formatCount } from "@/core/format/numbers";
import type { Workshop } from "./workshop";

/** Counts rows that do not train since their answer is neither positive nor negative; undefined where all answers count. */
export async function countLeftOut(shop: Workshop): Promise<number | undefined> {
  const relation = leftOutRows(shop.plan);
  if (!relation) return undefined;
  return shop.recorder.doing("exclude other target values", async () => {
    const purpose = "rows with a target that is on neither side";
    const [row] = await shop.session.ask(rowsQuestion(relation, purpose));
    const rows = Number(row?.["rows"] ?? 0);
    return {
      value: rows,
      rows,
      detail:
        rows === 0
          ? "all targets are positive or negative"
          : `${formatCount(rows, "row")} with a target that is neither positive nor negative`,
    };
  });
}
