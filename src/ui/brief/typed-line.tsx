"use client";
import { useEffect, useRef } from "react";
import { useTyped } from "../basic/use-typed";

const TYPING_MILLISECONDS = 500;
const trimmed = (text: string): string => text.trim();

/** A line of prose that is written where it is read; taken over when typing stops. */
export function TypedLine({
  label,
  value,
  onChange,
  placeholder,
  className = "",
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly placeholder: string;
  readonly className?: string;
}) {
  const { text, setText, take } = useTyped(value, onChange, TYPING_MILLISECONDS, trimmed);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    const box = field.current;
    if (!box) return;
    box.style.height = "0";
    box.style.height = `${box.scrollHeight}px`;
  }, [text]);
  return (
    <textarea
      ref={field}
      aria-label={label}
      rows={1}
      value={text}
      placeholder={placeholder}
      onChange={(event) => setText(event.target.value.replaceAll("\n", " "))}
      onBlur={() => take()}
      className={`w-full resize-none overflow-hidden border-b border-transparent bg-transparent leading-snug placeholder:text-faded placeholder:italic hover:border-rule focus:border-woad ${className}`}
    />
  );
}
