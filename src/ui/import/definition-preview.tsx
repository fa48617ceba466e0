"use client";
import { toast } from "sonner";
import type { DefinitionsRead } from "@/core/files/table-definition";
import { makeTables } from "@/server/import-actions";
import { Problems } from "../basic/problems";
import { tellProblems } from "../basic/tell-problems";
import { useAction } from "../basic/use-action";
import { usePosted } from "../queries/use-posted";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly name: string;
  readonly text: string;
  readonly onLeave: () => void;
}

/** The tables that a file of CREATE TABLE statements defines, before they are made, and what of the file is not taken. */
export function DefinitionPreview({ name, text, onLeave }: Props) {
  const [busy, ask] = useAction();
  const { value, failure } = usePosted<DefinitionsRead>("/api/imports/definitions", { text });
  const make = async (): Promise<void> => {
    const outcome = await ask(() => makeTables(text));
    if (!outcome.ok) return tellProblems(outcome.problems);
    // What comes next is their rows: files to be added to them.
    toast.success(`Created ${outcome.value.join(", ")}.`);
    onLeave();
  };
  const tables = value?.tables ?? [];
  const count = tables.length === 1 ? "1 table" : `${tables.length} tables`;
  return (
    <section aria-label="Tables in the file" className="border-y border-rule py-4">
      <h2>{name}</h2>
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {value && value.left.length > 0 && (
        <div className="mt-3">
          <h3 className="font-semibold">Skipped in the file</h3>
          <Problems lines problems={value.left} />
        </div>
      )}
      <div className="mt-3 grid items-start gap-x-10 gap-y-5 md:grid-cols-2">
        {tables.map((table) => (
          <Sheet key={table.name} aria-label={table.name}>
            <caption className="pb-1 text-left font-semibold">{table.name}</caption>
            <tbody>
              {table.columns.map((column) => (
                <tr key={column.name}>
                  <td>{column.name}</td>
                  <td className="figure">{column.declared}</td>
                  <td className="text-caption text-faded">{columnWords(table, column)}</td>
                </tr>
              ))}
            </tbody>
          </Sheet>
        ))}
      </div>
      <p className="mt-5 flex gap-3">
        <button
          type="button"
          className="press press-main"
          disabled={busy || tables.length === 0}
          onClick={() => void make()}
        >
          Create {count}
        </button>
        <button type="button" className="press" onClick={onLeave}>
          Choose another file
        </button>
      </p>
    </section>
  );
}

type Table = DefinitionsRead["tables"][number];

/** What a column is for: key, unique, required, and what it refers to. */
function columnWords(
  { primaryKey, unique, references }: Table,
  { name, required }: Table["columns"][number],
): string {
  const target = references.find(({ columns }) => columns.includes(name));
  return [
    ...(primaryKey.includes(name) ? ["key"] : []),
    ...(unique.some((columns) => columns.includes(name)) ? ["unique"] : []),
    ...(required && !primaryKey.includes(name) ? ["required"] : []),
    ...(target ? [`refers to ${target.table}`] : []),
  ].join(", ");
}
