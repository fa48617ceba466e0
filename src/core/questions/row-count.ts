import { z } from "zod";
import { asDouble, countRows } from "../expression/ast";
import { aggregateRows, type Relation } from "../relation/relation";
import { doubleValue, onlyRow, type Question } from "./question";

const countRow = z.object({ rows: doubleValue });

/** How many rows there are. */
export const rowCountQuestion = (rows: Relation, purpose: string): Question<number> => ({
  relation: aggregateRows(rows, [], [{ name: "rows", expression: asDouble(countRows) }]),
  purpose,
  read: (found) => onlyRow(found, countRow).rows,
});
