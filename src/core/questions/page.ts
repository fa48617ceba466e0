import { z } from "zod";
import { call, cast, column, integer, type Order } from "../expression/ast";
import { outputColumns, project, type Relation } from "../relation/relation";
import type { Question } from "./question";

/** Rows as a grid shows them. */
export interface Page {
  readonly columns: readonly string[];
  /** Values as text, as the warehouse writes them; null where missing. */
  readonly rows: readonly (readonly (string | null)[])[];
}

/** Longest value shown in a grid, in characters. */
const MOST_CHARACTERS = 300;

const pageRows = z.array(z.record(z.string(), z.string().nullable()));

/** Which rows of a relation a grid shows: all when left out, in the order of the relation's own rows. */
export interface PageChoice {
  readonly rows: number;
  readonly offset?: number;
  readonly order?: readonly Order[];
}

/** Rows with every column as text, so that a grid shows exactly what the warehouse holds. */
export function pageQuestion(relation: Relation, purpose: string, choice?: PageChoice): Question<Page> {
  const columns = outputColumns(relation);
  const chosen: Relation = choice
    ? {
        kind: "limit",
        input: relation,
        order: choice.order ?? [],
        rows: choice.rows,
        offset: choice.offset ?? 0,
      }
    : relation;
  return {
    relation: project(
      chosen,
      columns.map((name) => ({
        name,
        expression: call("left", cast(column(name), "text"), integer(MOST_CHARACTERS)),
      })),
    ),
    purpose,
    read: (rows) => ({
      columns,
      rows: pageRows.parse(rows).map((row) => columns.map((name) => row[name] ?? null)),
    }),
  };
}
