"use client";
import { changeColumn, troubleWithTarget } from "@/core/files/change-choices";
import type { Choices, ColumnLook, FileLook, TextLook } from "@/core/files/look";
import { tableNameOf } from "@/core/files/several";
import type { SeenImport } from "@/server/import-request";
import { lookAtImportAgain, startLoad } from "@/server/import-actions";
import { useState } from "react";
import { tellProblems } from "../basic/tell-problems";
import { useAction } from "../basic/use-action";
import { askToConfirm } from "../basic/confirm";

/** A table that files can be loaded into. */
export interface KnownTable {
  readonly name: string;
  readonly readers: readonly string[];
}

export interface LookFormProps {
  readonly row: SeenImport;
  readonly look: FileLook;
  readonly importSchema: string;
  /** Tables that files can be loaded into, with the pipelines that read them. */
  readonly known: readonly KnownTable[];
  readonly onOrdered: () => void;
}

export interface LookControl {
  readonly choices: Choices;
  readonly put: (change: Partial<Choices>) => void;
  readonly putColumn: (place: number, change: Partial<ColumnLook>) => void;
  readonly busy: boolean;
  /** What keeps the file from going into the chosen table. */
  readonly trouble: string | undefined;
  /** Pipelines that read a table which would be replaced. */
  readonly readers: readonly string[];
  /** Rows that do not fit the proposed types. */
  readonly misfits: number;
  /** Reads the file again, with another format or sheet. */
  readonly readAgain: (change: { readonly text?: Partial<TextLook>; readonly sheet?: string }) => void;
  readonly load: () => void;
}

/** Rows that cannot be read or do not fit a type that was left as proposed. */
const misfitsOf = (look: FileLook, choices: Choices): number =>
  look.broken +
  choices.columns.reduce(
    (sum, column, at) =>
      sum + (column.take && column.type === look.choices.columns[at]?.type ? look.findings[at]!.misfits : 0),
    0,
  );

/** What was found in a file, as it is corrected, and what is done with it. */
export function useLookForm({ row, look, importSchema, known, onOrdered }: LookFormProps): LookControl {
  const [choices, setChoices] = useState<Choices>(
    () => row.choices ?? { ...look.choices, table: tableNameOf(row.name), mode: "new", misfits: "stop" },
  );
  const [busy, ask] = useAction();
  const readers =
    choices.mode === "replace"
      ? (known.find(({ name }) => name === choices.table.trim())?.readers ?? [])
      : [];
  const order = async (act: Parameters<typeof ask>[0]): Promise<void> => {
    const outcome = await ask(act);
    if (outcome.ok) onOrdered();
    else tellProblems(outcome.problems);
  };
  const load = async (): Promise<void> => {
    const question = `Replace ${importSchema}.${choices.table}? It is read by ${readers.join(", ")}.`;
    if (readers.length > 0 && !(await askToConfirm(question, "Replace"))) return;
    await order(() => startLoad(row.id, choices));
  };
  return {
    choices,
    put: (change) => setChoices((now) => ({ ...now, ...change })),
    putColumn: (place, change) => setChoices((now) => changeColumn(now, place, change)),
    busy,
    trouble: troubleWithTarget(
      choices,
      known.map(({ name }) => name),
    ),
    readers,
    misfits: misfitsOf(look, choices),
    readAgain: ({ text, sheet }) =>
      void order(() =>
        lookAtImportAgain(row.id, {
          ...(text ? { text: { ...choices.text, ...text } } : {}),
          ...(sheet === undefined ? {} : { sheet }),
        }),
      ),
    load: () => void load(),
  };
}
