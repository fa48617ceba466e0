import { isUsableIdentifier } from "@/core/names/identifier";
import { problem, ProblemError } from "@/core/problem";
import { engine } from "@/warehouse/engines";
import type { GrantWish } from "@/warehouse/port/grants";

/**
 * The statements that let Ravlen into a warehouse, as a script for its superuser. Problems: bad_name, when
 * something is not a name.
 */
export function grantScript(wish: GrantWish): string {
  const names = [wish.database, wish.reader, wish.writer, ...wish.own, ...wish.read, ...wish.owners];
  const unusable = names.find((name) => !isUsableIdentifier(name));
  if (unusable !== undefined)
    throw new ProblemError(
      problem(
        "bad_name",
        unusable === ""
          ? "A role, schema or database has no name."
          : `“${unusable.slice(0, 70)}” is too long for a name: at most 63 bytes.`,
        "Enter the missing name, or a shorter one.",
      ),
    );
  return [
    `-- To be run by a superuser, in the database "${wish.database.replaceAll("\n", " ")}".`,
    ...engine.grantStatements(wish).map((statement) => `${statement};`),
    "-- Then give both roles passwords: \\password ROLE in psql keeps them out of its history.",
    "",
  ].join("\n");
}
