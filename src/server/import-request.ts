import { importById, type ImportRow } from "@/store/imports";
import { uuidInput } from "./answer/inputs";
import { appContext } from "./context";

/** An import by the id in a request. */
export async function importFromRequest(id: string): Promise<ImportRow | undefined> {
  const parsed = uuidInput.safeParse(id);
  return parsed.success ? importById((await appContext()).store.db, parsed.data) : undefined;
}

/** What the interface may see of an import: not where its file lies, and times as texts. */
export function seen(row: ImportRow) {
  const {
    id,
    name,
    bytes,
    state,
    wishes,
    look,
    choices,
    doneBytes,
    doneRows,
    rejected,
    cancelAsked,
    problems,
    misfits,
  } = row;
  const time = (moment: Date | null): string | null => moment?.toISOString() ?? null;
  return {
    id,
    name,
    bytes,
    state,
    wishes,
    look,
    choices,
    doneBytes,
    doneRows,
    rejected,
    cancelAsked,
    problems,
    misfits,
    createdAt: row.createdAt.toISOString(),
    stageStartedAt: time(row.stageStartedAt),
    finishedAt: time(row.finishedAt),
  };
}

/** What a list of several imports shows of one: how far it is, and its columns once it was looked at. */
export function seenAmong(row: ImportRow) {
  const { id, name, bytes, state, look, choices, doneBytes, doneRows, rejected, problems } = row;
  return {
    id,
    name,
    bytes,
    state,
    doneBytes,
    doneRows,
    rejected,
    problems,
    table: choices?.table ?? null,
    look: look ? { rows: look.rows, broken: look.broken, choices: look.choices } : null,
  };
}

export type SeenAmong = ReturnType<typeof seenAmong>;

export type SeenImport = ReturnType<typeof seen>;
