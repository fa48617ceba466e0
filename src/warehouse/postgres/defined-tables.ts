import type { TableDefinition } from "@/core/files/table-definition";
import { writeTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError } from "@/core/problem";
import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import type { PostgresSession } from "./session";

/** Makes tables with their keys; references come after the rows. */
export async function createTables(
  session: PostgresSession,
  schema: string,
  tables: readonly TableDefinition[],
): Promise<void> {
  for (const { name, columns, primaryKey, unique, comment } of tables) {
    const target = { schema, table: name };
    const [known] = await session.run(
      "SELECT to_regclass($1) IS NOT NULL AS exists",
      "check whether the table exists",
      [quoteTable(target)],
    );
    if (known?.["exists"] === true)
      throw new ProblemError(
        problem(
          "table_exists",
          `There is already a table ${writeTableName(target)}.`,
          "Choose another name in the file. Nothing was created.",
        ),
      );
    const parts = [
      ...columns.map(
        (column) => `${quoteIdentifier(column.name)} ${column.declared}${column.required ? " NOT NULL" : ""}`,
      ),
      ...(primaryKey.length > 0 ? [`PRIMARY KEY (${primaryKey.map(quoteIdentifier).join(", ")})`] : []),
      ...unique.map((columnNames) => `UNIQUE (${columnNames.map(quoteIdentifier).join(", ")})`),
    ];
    await session.run(`CREATE TABLE ${quoteTable(target)} (${parts.join(", ")})`, "create the table");
    if (comment !== undefined)
      await session.run(
        `COMMENT ON TABLE ${quoteTable(target)} IS ${quoteText(comment)}`,
        "read the table's columns",
      );
  }
}

/** Adds the references between tables, once all rows are there. */
export async function addReferences(
  session: PostgresSession,
  schema: string,
  tables: readonly TableDefinition[],
): Promise<void> {
  for (const { name, references } of tables) {
    for (const reference of references) {
      const targets =
        reference.targets.length > 0 ? ` (${reference.targets.map(quoteIdentifier).join(", ")})` : "";
      await session
        .run(
          `ALTER TABLE ${quoteTable({ schema, table: name })} ADD FOREIGN KEY (${reference.columns.map(quoteIdentifier).join(", ")}) REFERENCES ${quoteTable({ schema, table: reference.table })}${targets}`,
          "reference of the table",
        )
        .catch((error: unknown) => {
          if ((error as { readonly code?: string }).code === "23503")
            throw new ProblemError(
              problem(
                "reference_broken",
                `${name} (${reference.columns.join(", ")}) names rows of ${reference.table} that do not exist. ${(error as { readonly detail?: string }).detail ?? ""}`,
                "Correct the data. Nothing was loaded.",
              ),
            );
          throw error;
        });
    }
  }
}
