import type { Loader } from "../port/loader";
import { csvInto, linesInto } from "./copy-in";
import { addReferences, createTables } from "./defined-tables";
import { finishTarget, prepareTarget } from "./load-target";
import type { PostgresSession } from "./session";

/** Loads rows into the tables of a warehouse, each load in one transaction. */
export const loaderOf = (session: PostgresSession, importSchema: string): Loader => ({
  load: (work) =>
    session.transaction(() =>
      work({
        prepare: (target, choices) => prepareTarget(session, target, choices),
        finish: (target, into, choices) => finishTarget(session, target, into, choices),
        define: (tables) => createTables(session, importSchema, tables),
        addReferences: (tables) => addReferences(session, importSchema, tables),
        csvInto: (into, columns, text) => csvInto(session, into, columns, text),
        linesInto: (into, columns) => linesInto(session, into, columns),
      }),
    ),
});
