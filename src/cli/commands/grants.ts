import type { Command } from "commander";
import { grantScript } from "@/runs/grants";

interface GrantFlags {
  readonly database: string;
  readonly reader: string;
  readonly writer: string;
  readonly output: string;
  readonly scratch: string;
  readonly imports: string;
  readonly madeBy: readonly string[];
  readonly temporary: string;
}

/** grants: the SQL that gives both roles of a warehouse what they need, and nothing more. */
export function addGrantsCommand(program: Command): void {
  program
    .command("grants")
    .argument("<schemas...>", "schemas that Ravlen may read")
    .requiredOption("--database <name>", "the warehouse database")
    .option("--reader <role>", "reader role", "ravlen_reader")
    .option("--writer <role>", "writer role, owner of the schemas below", "ravlen_writer")
    .option("--output <schema>", "schema for prediction tables", "predictions")
    .option("--scratch <schema>", "schema for intermediate tables", "ravlen_scratch")
    .option("--imports <schema>", "schema for tables loaded from files", "imported")
    .option(
      "--made-by <roles...>",
      "roles that create tables in the schemas to read; without them, run this again after new tables",
      [],
    )
    .option("--temporary <size>", "temporary disk limit per session", "20GB")
    .description("print the SQL that creates and grants the warehouse roles, to be run by a superuser")
    .action((schemas: readonly string[], flags: GrantFlags) => {
      process.stdout.write(
        grantScript({
          database: flags.database,
          reader: flags.reader,
          writer: flags.writer,
          own: [flags.output, flags.scratch, flags.imports],
          read: schemas,
          owners: flags.madeBy,
          temporary: flags.temporary,
        }),
      );
    });
}
