import type pg from "pg";

/** What a role may do that Ravlen does not need, in words; and whether it is a superuser. */
export interface RoleRights {
  readonly superuser: boolean;
  readonly tooMuch: readonly string[];
}

const ATTRIBUTES: Readonly<Record<string, string>> = {
  rolcreaterole: "make roles",
  rolcreatedb: "make databases",
  rolreplication: "replicate",
  rolbypassrls: "read past row security",
};

/** PostgreSQL's own roles that give more than reading the tables of a schema. */
const GROUPS: Readonly<Record<string, string>> = {
  pg_read_all_data: "read everything, the hashes of passwords included (pg_read_all_data)",
  pg_write_all_data: "write every table (pg_write_all_data)",
  pg_read_server_files: "read files of the server (pg_read_server_files)",
  pg_write_server_files: "write files of the server (pg_write_server_files)",
  pg_execute_server_program: "run programs on the server (pg_execute_server_program)",
  pg_signal_backend: "end sessions of others (pg_signal_backend)",
};

/** Schemas named in one warning. */
const NAMED = 3;

/**
 * Looks at what the role of a connection may do beyond its work.
 * @param own schemas in which it makes tables
 */
export async function rightsOfRole(
  client: Pick<pg.ClientBase, "query">,
  own: readonly string[],
): Promise<RoleRights> {
  const { rows: roles } = await client.query<Record<string, boolean>>(
    "SELECT rolsuper, rolcreaterole, rolcreatedb, rolreplication, rolbypassrls FROM pg_roles WHERE rolname = current_user",
  );
  const { rows: groups } = await client.query<{ name: string }>(
    "SELECT rolname AS name FROM pg_roles WHERE rolname = ANY ($1) AND pg_has_role(current_user, oid, 'USAGE')",
    [Object.keys(GROUPS)],
  );
  const { rows: schemas } = await client.query<{ name: string }>(
    "SELECT DISTINCT n.nspname AS name FROM pg_namespace n LEFT JOIN pg_class c ON c.relnamespace = n.oid AND c.relkind IN ('r', 'p') WHERE n.nspname !~ '^pg_' AND n.nspname <> 'information_schema' AND NOT n.nspname = ANY ($1) AND (has_schema_privilege(n.oid, 'CREATE') OR has_table_privilege(c.oid, 'INSERT, UPDATE, DELETE, TRUNCATE')) ORDER BY 1",
    [own],
  );
  const role = roles[0] ?? {};
  const written = schemas.map(({ name }) => `"${name}"`);
  const more = written.length > NAMED ? ` and ${written.length - NAMED} more` : "";
  return {
    superuser: role["rolsuper"] === true,
    tooMuch: [
      ...Object.entries(ATTRIBUTES).flatMap(([name, words]) => (role[name] === true ? [words] : [])),
      ...groups.map(({ name }) => GROUPS[name] ?? name),
      ...(written.length > 0 ? [`write in ${written.slice(0, NAMED).join(", ")}${more}`] : []),
    ],
  };
}
