import { namedSettings, settingName } from "@/core/format/setting-text";
import { ALGORITHMS } from "@/core/learn/algorithms";
import type { Candidate } from "@/core/pipeline/schema";

/** Where a candidate trains. */
export const PLACES = {
  auto: "automatic place",
  warehouse: "rows stay in the warehouse",
  streaming: "rows stream to the worker",
} as const;

/** Settings that differ from their defaults, in one line. */
export function settingsText({ algorithm, settings }: Candidate): string {
  const standard = ALGORITHMS[algorithm].settings.parse({}) as Readonly<Record<string, unknown>>;
  const own = Object.entries(settings).filter(
    ([name, value]) => JSON.stringify(value) !== JSON.stringify(standard[name]),
  );
  if (own.length === 0) return "default settings";
  return namedSettings(Object.fromEntries(own)).join(", ");
}

/** Settings that a search tries, by name. */
export const searchText = ({ search }: Candidate): string => (search?.try ?? []).map(settingName).join(", ");

/** How many models are fitted, in words. */
export function fitsText({ trials, folds }: { readonly trials: number; readonly folds: number }): string {
  if (trials > 0) return `${trials} combinations in ${folds} folds, and the last fit`;
  return folds > 0 ? `${folds} folds, and the last fit` : "one fit";
}
