"use client";
import { useEffect, useState } from "react";

/** A text as it stood when it was last left alone for a while. */
export function useSettled(text: string, milliseconds: number): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), milliseconds);
    return () => clearTimeout(timer);
  }, [text, milliseconds]);
  return settled;
}
