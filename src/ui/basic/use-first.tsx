"use client";
import { useState, type ReactNode } from "react";
import { formatNumber } from "@/core/format/numbers";

/**
 * The first of a list, and a button that shows the others: what is left out is said, and can be seen.
 * @param few how many are shown at first
 * @param what what they are, in the plural
 */
export function useFirst<Item>(
  all: readonly Item[],
  few: number,
  what: string,
): { readonly shown: readonly Item[]; readonly showAll: ReactNode } {
  const [everything, setEverything] = useState(false);
  if (everything || all.length <= few) return { shown: all, showAll: null };
  return {
    shown: all.slice(0, few),
    showAll: (
      <button type="button" className="mt-1 text-caption underline" onClick={() => setEverything(true)}>
        Show all {formatNumber(all.length)} {what}
      </button>
    ),
  };
}
