import type { GrantWish } from "../port/grants";
import { quoteIdentifier, quoteText } from "./dialect/quote";

/**
 * The least that both roles need: the reader reads the named schemas and what the writer made, the writer reads the named schemas and
 * owns its own. To be run by a superuser; running it again does no harm.
 */
export function grantStatements(wish: GrantWish): readonly string[] {
  const { database, own, read, owners, temporary } = wish;
  const [reader, writer] = [wish.reader, wish.writer].map(quoteIdentifier) as [string, string];
  const both = `${reader}, ${writer}`;
  return [
    ...[wish.reader, wish.writer].map(roleStatement),
    `ALTER ROLE ${reader} SET default_transaction_read_only = on`,
    ...(temporary === undefined
      ? []
      : [reader, writer].map((role) => `ALTER ROLE ${role} SET temp_file_limit = ${quoteText(temporary)}`)),
    ...lessThanBefore(both),
    `GRANT CONNECT ON DATABASE ${quoteIdentifier(database)} TO ${both}`,
    `GRANT TEMPORARY ON DATABASE ${quoteIdentifier(database)} TO ${writer}`,
    ...own.flatMap((schema) => ownSchema(quoteIdentifier(schema), reader, writer)),
    ...read.flatMap((schema) => readSchema(quoteIdentifier(schema), both, owners.map(quoteIdentifier))),
  ];
}

const roleStatement = (role: string): string =>
  `DO $$ BEGIN CREATE ROLE ${quoteIdentifier(role)} LOGIN; EXCEPTION WHEN duplicate_object THEN NULL; END $$`;

/** What earlier versions recommended: it lets both roles read the passwords' hashes of all roles. */
const lessThanBefore = (both: string): readonly string[] => [`REVOKE pg_read_all_data FROM ${both}`];

const ownSchema = (schema: string, reader: string, writer: string): readonly string[] => [
  `CREATE SCHEMA IF NOT EXISTS ${schema} AUTHORIZATION ${writer}`,
  `GRANT USAGE ON SCHEMA ${schema} TO ${reader}`,
  `GRANT SELECT ON ALL TABLES IN SCHEMA ${schema} TO ${reader}`,
  `ALTER DEFAULT PRIVILEGES FOR ROLE ${writer} IN SCHEMA ${schema} GRANT SELECT ON TABLES TO ${reader}`,
];

const readSchema = (schema: string, both: string, owners: readonly string[]): readonly string[] => [
  `GRANT USAGE ON SCHEMA ${schema} TO ${both}`,
  `GRANT SELECT ON ALL TABLES IN SCHEMA ${schema} TO ${both}`,
  ...owners.map(
    (owner) =>
      `ALTER DEFAULT PRIVILEGES FOR ROLE ${owner} IN SCHEMA ${schema} GRANT SELECT ON TABLES TO ${both}`,
  ),
];
