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

export type SeenImport = ReturnType<typeof seen>;
