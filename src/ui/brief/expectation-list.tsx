"use client";
import { Plus, X } from "lucide-react";
import { TypedLine } from "./typed-line";
import { useBrief } from "./use-brief";
import { Select } from "../select/select";
import { pairedOptions } from "../select/options";

interface Expectation {
  readonly expect: string;
  readonly found?: string;
  readonly held?: string;
}

const HELD = [
  ["", "not checked"],
  ["yes", "confirmed"],
  ["partly", "partly"],
  ["no", "not confirmed"],
] as const;
const TONES: Readonly<Record<string, string>> = { no: "text-madder", yes: "text-moss" };

/** An expectation as the file has it: alone, or with what was found. */
function written({ expect, found, held }: Expectation): unknown {
  if (!found && !held) return expect;
  return { expect, ...(found ? { found } : {}), ...(held ? { held } : {}) };
}

/** What is expected of the data beforehand, and what was found later. */
export function ExpectationList() {
  const { value, put } = useBrief();
  const raw = value("expectations");
  const expectations = (Array.isArray(raw) ? raw : []).map((entry: unknown): Expectation =>
    typeof entry === "string" ? { expect: entry } : (entry as Expectation),
  );
  const putAll = (next: readonly Expectation[]): void =>
    put(["expectations"], next.length === 0 ? "" : next.map(written));
  const change = (at: number, part: Partial<Expectation>): void =>
    putAll(
      expectations.map((expectation, index) => (index === at ? { ...expectation, ...part } : expectation)),
    );
  return (
    <section aria-label="Expectations" className="pt-3">
      <h2 className="font-sans">Expectations and findings</h2>
      <ol className="mt-2 space-y-2">
        {expectations.map((expectation, index) => (
          <ExpectationItem
            key={index}
            number={index + 1}
            expectation={expectation}
            onChange={(part) => change(index, part)}
            onRemove={() => putAll(expectations.filter((_, at) => at !== index))}
          />
        ))}
      </ol>
      <button
        type="button"
        className="press press-quiet mt-1 px-1 font-sans text-caption"
        onClick={() => putAll([...expectations, { expect: "I expect that …" }])}
      >
        <Plus size={13} aria-hidden />
        expectation
      </button>
    </section>
  );
}

function ExpectationItem({
  number,
  expectation: { expect, found = "", held = "" },
  onChange,
  onRemove,
}: {
  readonly number: number;
  readonly expectation: Expectation;
  readonly onChange: (part: Partial<Expectation>) => void;
  readonly onRemove: () => void;
}) {
  return (
    <li className="grid grid-cols-[1fr_1fr_auto] items-baseline gap-4 border-b border-weft pb-2">
      <TypedLine
        label={`Expectation ${number}`}
        value={expect}
        onChange={(typed) => {
          if (typed !== "") onChange({ expect: typed });
        }}
        placeholder=""
      />
      <span>
        <Select
          label={`Was expectation ${number} confirmed?`}
          className={`mr-2 border-transparent bg-transparent font-sans text-caption ${TONES[held] ?? "text-faded"}`}
          value={held}
          options={pairedOptions(HELD)}
          onChange={(chosen) => onChange({ held: chosen })}
        />
        <TypedLine
          label={`Finding for expectation ${number}`}
          value={found}
          onChange={(typed) => onChange({ found: typed })}
          placeholder="Finding"
          className="text-body"
        />
      </span>
      <button
        type="button"
        aria-label={`Remove expectation ${number}`}
        className="press press-quiet px-1"
        onClick={onRemove}
      >
        <X size={13} />
      </button>
    </li>
  );
}
