import { stringify } from "yaml";
import { figure } from "../basic/format";

/** The settings of a step: a sentence, the reason given in the file, and the lines of the file. */
export function Settings({ sentence, note, settings }: { readonly sentence: string; readonly note?: string | undefined; readonly settings: unknown }) {
  return (
    <>
      <p className="font-medium">{sentence.charAt(0).toUpperCase() + sentence.slice(1)}</p>
      {note && <p className="mt-1 font-serif text-[1.02rem]">{note}</p>}
      <pre className="mt-2 whitespace-pre-wrap">{stringify(settings, { lineWidth: 100 })}</pre>
    </>
  );
}

/** Learned values as a small table, whatever their shape: one line per column. */
export function Learned({ value }: { readonly value: unknown }) {
  if (typeof value !== "object" || value === null) return <p className="text-faded">Nothing had to be learned.</p>;
  const parts = value as Readonly<Record<string, Readonly<Record<string, unknown>>>>;
  const source = parts["values"] ?? parts["columns"] ?? parts["levels"] ?? {};
  const entries = Object.entries(source);
  if (entries.length === 0) return <p className="text-faded">Nothing had to be learned.</p>;
  return (
    <>
      <p className="text-faded">Learned on training rows only, kept with each model version and used unchanged when scoring.</p>
      <table className="sheet mt-1 max-w-2xl">
        <thead><tr><th>Column</th><th>Learned</th></tr></thead>
        <tbody>{entries.map(([name, learned]) => <tr key={name}><td className="font-medium">{name}</td><td className="figure">{describe(learned)}</td></tr>)}</tbody>
      </table>
    </>
  );
}

function describe(learned: unknown): string {
  if (learned === null) return "nothing: no value in the training rows";
  if (typeof learned === "number") return figure(learned, 8);
  if (Array.isArray(learned)) return `${learned.length} categories: ${learned.join(", ")}`;
  if (typeof learned === "object") return Object.entries(learned).map(([name, value]) => `${name} ${typeof value === "number" ? figure(value, 8) : String(value)}`).join(", ");
  return String(learned);
}
