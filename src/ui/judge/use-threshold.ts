"use client";
import { useState } from "react";
import { usePageSearch, writePageSearch } from "../frame/page-search";

const NAME = "threshold";

/**
 * A threshold that is also in the URL. It is written there at once when a change is settled, never later: a delayed change of the
 * URL would undo the opening of another page that was asked for in between.
 * @returns the threshold, what moves it, and what settles it
 */
export function useThreshold(
  first: number,
): readonly [number, (value: number) => void, (value: number) => void] {
  const given = new URLSearchParams(usePageSearch().search).get(NAME);
  const inUrl = given === null ? Number.NaN : Number(given);
  const [threshold, move] = useState(Number.isFinite(inUrl) ? inUrl : first);
  const settle = (value: number): void => {
    move(value);
    const search = new URLSearchParams(window.location.search);
    search.set(NAME, String(value));
    writePageSearch("replace", search.toString());
  };
  return [threshold, move, settle];
}
