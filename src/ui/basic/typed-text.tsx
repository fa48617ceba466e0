"use client";
import { writeNumberTyped } from "./typed-setting";
import { useTyped } from "./use-typed";

const TYPING_MILLISECONDS = 350;

interface Props {
  readonly value: string;
  /** Takes the text over; an empty one where what comes by itself stands there. */
  readonly onChange: (value: string) => void;
  readonly label: string;
  /** What counts while nothing else is said; it stands in the field. */
  readonly usual?: string | undefined;
  /** What it could be, where nothing comes by itself. */
  readonly example?: string | undefined;
  readonly long?: boolean;
  readonly numeric?: boolean;
}

/**
 * A text that is taken over a moment after typing stops, and when the field is left. Numbers may be typed
 * with a comma and in percent.
 */
export function TypedText({
  value,
  onChange,
  label,
  usual = "",
  example,
  long = false,
  numeric = false,
}: Props) {
  const { text, setText, take } = useTyped(
    value === "" ? usual : value,
    (typed) => onChange(typed === usual ? "" : typed),
    TYPING_MILLISECONDS,
    numeric ? writeNumberTyped : undefined,
  );
  const isUnchanged = usual !== "" && text === usual;
  const look = isUnchanged ? "text-faded italic" : "";
  const common = {
    value: text,
    "aria-label": label,
    placeholder: example && `such as ${example}`,
    title: isUnchanged ? "default; type something else to change it" : undefined,
    onBlur: () => {
      take();
      if (text === "") setText(usual);
    },
  };
  return long ? (
    <textarea
      {...common}
      rows={4}
      onChange={(event) => setText(event.target.value)}
      className={`field w-full font-mono text-caption ${look}`}
    />
  ) : (
    <input
      {...common}
      inputMode={numeric ? "decimal" : undefined}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === "Enter") take();
      }}
      className={`field w-full ${numeric ? "figure max-w-40" : "max-w-96"} ${look}`}
    />
  );
}
