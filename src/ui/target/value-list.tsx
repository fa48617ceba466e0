"use client";
import { X } from "lucide-react";
import { useId, useState } from "react";

interface Props {
  /** Id of the field for a further value, where a label names it. */
  readonly id?: string;
  /** What the field is called, where no label names it. */
  readonly name?: string;
  /** What the values are, such as "positive". */
  readonly side: string;
  readonly values: readonly string[];
  /** Values to choose from. */
  readonly known: readonly string[];
  /** What having none means; undefined where there has to be one. */
  readonly none?: string;
  readonly trouble: string;
  readonly onChange: (values: readonly string[]) => void;
}

/** A list of values: those there are, each with a button to remove it, and a field for a further one. */
export function ValueList({ id, name, side, values, known, none, trouble, onChange }: Props) {
  const [typed, setTyped] = useState("");
  const add = (text: string): void => {
    setTyped("");
    if (text !== "" && !values.includes(text)) onChange([...values, text]);
  };
  const list = useId();
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {values.map((value) => (
        <span
          key={value}
          className="inline-flex max-w-full items-center gap-1 rounded border border-rule bg-paper px-1.5"
        >
          <span className="truncate">{value === "" ? "(empty text)" : value}</span>
          <button
            type="button"
            aria-label={`Remove ${value} from the ${side} values`}
            onClick={() => onChange(values.filter((other) => other !== value))}
          >
            <X size={12} />
          </button>
        </span>
      ))}
      {values.length === 0 && none !== undefined && <span className="text-faded">{none}, or</span>}
      <input
        id={id}
        aria-label={name}
        aria-describedby={trouble}
        list={list}
        className="field figure w-44"
        value={typed}
        onChange={(event) => {
          const { value } = event.target;
          // A value chosen from the list comes whole, without a key pressed.
          const { inputType } = event.nativeEvent as InputEvent;
          if (inputType === "insertReplacementText") add(value);
          else setTyped(value);
        }}
        onKeyDown={(event) => {
          if (event.key !== "Enter" || typed === "") return;
          event.preventDefault();
          add(typed);
        }}
        onBlur={() => add(typed)}
      />
      <datalist id={list}>
        {known
          .filter((value) => !values.includes(value))
          .map((value) => (
            <option key={value} value={value} />
          ))}
      </datalist>
    </div>
  );
}
