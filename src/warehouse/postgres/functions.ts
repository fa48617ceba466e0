import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import { hidden } from "@/core/names/hidden";
import { GIVEN } from "@/core/plan/given";
import { problem, ProblemError } from "@/core/problem";
import { printRelation } from "./dialect/relation";
import { inputsOf, type Relation } from "@/core/relation/relation";
import type {
  DescribedFunction,
  FoundFunction,
  FunctionDefinition,
  PredictionFunctions,
} from "../port/functions";
import { callText } from "./call-text";
import type { PostgresWarehouse } from "./warehouse";
import type { PostgresSession } from "./session";

const FROM_FUNCTIONS = "FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace";
const COMMENT = "obj_description(p.oid, 'pg_proc')";

/** Functions of a schema whose comments begin with a text. */
async function functionsWith(
  warehouse: PostgresWarehouse,
  schema: string,
  beginning: string,
): Promise<readonly FoundFunction[]> {
  const rows = await warehouse.read(
    `SELECT p.proname AS name, ${COMMENT} AS comment ${FROM_FUNCTIONS} WHERE n.nspname = $1 AND starts_with(${COMMENT}, $2)`,
    [schema, beginning],
  );
  return rows.map((row) => ({ name: String(row["name"]), comment: String(row["comment"]) }));
}

/** The same with parameters and results; those without a version's number in their names first. */
async function describeFunctions(
  warehouse: PostgresWarehouse,
  schema: string,
  beginning: string,
): Promise<readonly DescribedFunction[]> {
  const rows = await warehouse.read(
    `SELECT p.proname AS name, ${COMMENT} AS comment, pg_get_function_result(p.oid) AS returns,
       (SELECT coalesce(json_agg(json_build_object('name', p.proargnames[place], 'type', format_type(type, NULL)) ORDER BY place), '[]') FROM unnest(p.proargtypes) WITH ORDINALITY u(type, place)) AS parameters
     ${FROM_FUNCTIONS} WHERE n.nspname = $1 AND starts_with(${COMMENT}, $2) ORDER BY p.proname ~ '_v[0-9]+(_rows)?$', p.proname`,
    [schema, beginning],
  );
  return rows.map((row) => ({
    name: String(row["name"]),
    comment: String(row["comment"] ?? ""),
    returns: String(row["returns"]),
    parameters: row["parameters"] as DescribedFunction["parameters"],
  }));
}

/**
 * Drops functions of some names, whatever their parameters, whose comments begin with a text.
 * @returns names of functions that were left, since they belong to somebody else
 */
async function dropFunctions(
  session: PostgresSession,
  schema: string,
  names: readonly string[],
  beginning: string,
): Promise<readonly string[]> {
  const found = await session.run(
    `SELECT p.oid::regprocedure::text AS signature, p.proname AS name, ${COMMENT} AS comment ${FROM_FUNCTIONS} WHERE n.nspname = $1 AND p.proname = ANY ($2)`,
    "functions of the pipeline",
    [schema, [...names]],
  );
  const isOurs = ({ comment }: (typeof found)[number]): boolean =>
    String(comment ?? "").startsWith(beginning);
  // Signatures are written by PostgreSQL itself, quoted where they have to be.
  for (const { signature } of found.filter(isOurs))
    await session.run(`DROP FUNCTION ${String(signature)}`, "drop a function");
  return found.filter((row) => !isOurs(row)).map((row) => String(row["name"]));
}

/** The statement of a function: a relation over given rows reads its parameters. */
function bodyOf({ parameters, relation }: FunctionDefinition): string {
  // The logical time of a question is now.
  const inner = printRelation(relation, {
    runTime: new Date(0).toISOString(),
    runTimeSql: "statement_timestamp()",
  });
  if (parameters.length === 0 && !readsGiven(relation)) return inner;
  const given = parameters.map(({ name }, index) => `$${index + 1} AS ${quoteIdentifier(name)}`).join(", ");
  return `WITH ${quoteIdentifier(GIVEN)} AS (SELECT ${given === "" ? `1 AS ${hidden("none")}` : given})\nSELECT * FROM (\n${inner}\n) AS answer`;
}

const readsGiven = (relation: Relation): boolean =>
  relation.kind === "given" || inputsOf(relation).some(readsGiven);

/** Makes a function that runs with the rights of the writer, and lets roles call it; nobody else may. */
async function createFunction(
  session: PostgresSession,
  schema: string,
  definition: FunctionDefinition,
  roles: readonly string[],
): Promise<void> {
  const { name, parameters, returns, comment } = definition;
  const place = quoteTable({ schema, table: name });
  const taken = parameters
    .map((parameter) => `${quoteIdentifier(parameter.name)} ${parameter.type}`)
    .join(", ");
  const signature = `${place}(${parameters.map((parameter) => parameter.type).join(", ")})`;
  // A parameter and a result may have the same name only when they are told apart; the results are named by the table.
  const clash = parameters.some((parameter) => returns.some((other) => other.name === parameter.name));
  const result = `TABLE(${returns.map((column) => `${quoteIdentifier(clash ? `predicted_${column.name}` : column.name)} ${column.type}`).join(", ")})`;
  // The function may read what it must, whoever asks; asking is granted by name.
  await session.run(
    `CREATE FUNCTION ${place}(${taken}) RETURNS ${result} LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp SET jit = off AS ${quoteText(bodyOf(definition))}`,
    `make the function ${name}`,
  );
  await session.run(`COMMENT ON FUNCTION ${signature} IS ${quoteText(comment)}`, "set its comment");
  await session.run(`REVOKE ALL ON FUNCTION ${signature} FROM PUBLIC`, "revoke access of PUBLIC");
  for (const role of roles)
    await session.run(
      `GRANT EXECUTE ON FUNCTION ${signature} TO ${quoteIdentifier(role)}`,
      `${role} may call`,
    );
}

/**
 * Lets roles reach the schema of the functions; without that, EXECUTE on them is worth nothing.
 * Problems: schema_not_granted, when the writer may not grant it.
 */
async function grantUsage(session: PostgresSession, schema: string, roles: readonly string[]): Promise<void> {
  const barred = await session.run(
    "SELECT rolname AS role, EXISTS (SELECT FROM pg_namespace WHERE nspname = $1 AND pg_has_role(nspowner, 'USAGE')) OR has_schema_privilege($1, 'USAGE WITH GRANT OPTION') AS grantable FROM pg_roles WHERE rolname = ANY ($2) AND NOT has_schema_privilege(oid, $1, 'USAGE')",
    "roles that cannot reach the functions' schema",
    [schema, [...roles]],
  );
  for (const { role, grantable } of barred) {
    if (grantable !== true)
      throw new ProblemError(
        problem(
          "schema_not_granted",
          `"${String(role)}" may not use the schema "${schema}", and Ravlen's writer may not grant it.`,
          `Have its owner run GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${quoteIdentifier(String(role))}; and publish again.`,
        ),
      );
    await session.run(
      `GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${quoteIdentifier(String(role))}`,
      `${String(role)} may use the schema`,
    );
  }
}

/** Runs work in one transaction of a session of its own. */
async function inTransaction(
  warehouse: PostgresWarehouse,
  work: (session: PostgresSession) => Promise<unknown>,
): Promise<void> {
  const session = await warehouse.session();
  try {
    await session.transaction(() => work(session));
  } finally {
    session.release();
  }
}

/** Drops what stands in the place of functions. A function of somebody else is left alone, and is a problem. */
async function makeRoom(
  session: PostgresSession,
  schema: string,
  names: readonly string[],
  beginning: string,
): Promise<void> {
  const [foreign] = await dropFunctions(session, schema, names, beginning);
  if (foreign !== undefined)
    throw new ProblemError(
      problem(
        "name_taken",
        `A function ${schema}.${foreign} already exists and does not belong to this pipeline.`,
        "Rename the function or the pipeline. Nothing was changed.",
      ),
    );
}

/** The functions that a warehouse's output schema has. */
export function functionsOf(warehouse: PostgresWarehouse): PredictionFunctions {
  const schema = warehouse.config.outputSchema;
  return {
    find: (beginning) => functionsWith(warehouse, schema, beginning),
    describe: (beginning) => describeFunctions(warehouse, schema, beginning),
    callText: (name, values) => callText({ schema, name }, values),
    replace: (beginning, definitions, roles) =>
      inTransaction(warehouse, async (session) => {
        const names = definitions.map(({ name }) => name);
        await makeRoom(session, schema, names, beginning);
        for (const definition of definitions) await createFunction(session, schema, definition, roles);
        await grantUsage(session, schema, roles);
      }),
    drop: (beginning, wanted) =>
      inTransaction(warehouse, async (session) => {
        const names = wanted ?? (await functionsWith(warehouse, schema, beginning)).map(({ name }) => name);
        await dropFunctions(session, schema, [...new Set(names)], beginning);
      }),
  };
}
