import { z } from "zod";
import { ALGORITHM_NAMES, ALGORITHMS, factsOf, type Algorithm } from "@/core/learn/algorithms";
import { searchableSettings } from "@/core/learn/search/searchable";
import { toldEntries } from "@/core/pipeline/edit/told";
import type { Candidate, PipelineFile, RangeFile, SearchFile } from "@/core/pipeline/schema";
import { freeTitle } from "../basic/free-title";
import { rangeMistake } from "./search-range";
import { settingsFor, type SearchableStep } from "./search-range-row";
import { byUse, settingsOf } from "./setting-fields";

/** A candidate as its form has it. */
export interface CandidateDraft {
  readonly name: string;
  readonly algorithm: Algorithm;
  readonly engine: Candidate["engine"];
  readonly settings: Readonly<Record<string, unknown>>;
  readonly search: SearchFile | undefined;
}

/** Settings of an algorithm that a search can try, the often used first. */
export const searchedSettings = (algorithm: Algorithm) =>
  byUse(searchableSettings(ALGORITHMS[algorithm].settings));

/** Whether a range of a search cannot be used as it stands. */
const isMistaken = (
  range: RangeFile,
  { algorithm, search }: CandidateDraft,
  steps: readonly SearchableStep[],
): boolean => {
  const settings = settingsFor(range.step, searchedSettings(algorithm), steps);
  const found = settings.find(({ setting }) => setting === range.setting);
  return search !== undefined && rangeMistake(range, found, search.how) !== undefined;
};

/** What makes a candidate complete. @param steps steps whose settings can be searched too */
export const candidateDraftSchema = (steps: readonly SearchableStep[]) =>
  z
    .object({
      name: z.string().refine((name) => name.trim() !== "", "Enter a name."),
      algorithm: z.enum(ALGORITHM_NAMES as readonly [Algorithm, ...Algorithm[]]),
      engine: z.enum(["auto", "warehouse", "streaming"]),
      settings: z.record(z.string(), z.unknown()),
      search: z.custom<SearchFile | undefined>(() => true),
    })
    .refine((draft) => !draft.search?.try.some((range) => isMistaken(range, draft, steps)), {
      path: ["search"],
      error: "A range of the search cannot be used.",
    });

/** Settings that differ from their defaults: all that has to stand in the file. */
const told = (algorithm: Algorithm, settings: Readonly<Record<string, unknown>>): Record<string, unknown> =>
  toldEntries(
    settings,
    Object.fromEntries(settingsOf(algorithm).map(([name, { default: standard }]) => [name, standard])),
  );

/** What a candidate is called unless somebody says otherwise: its algorithm. */
export const proposedName = ({ candidates }: PipelineFile, algorithm: Algorithm): string =>
  freeTitle(
    factsOf(algorithm).title.toLowerCase(),
    candidates.map(({ name }) => name),
  );

/** The draft of a candidate of the file, or with null of a new one. */
export function draftOf(file: PipelineFile, place: number | null): CandidateDraft {
  const candidate = place === null ? undefined : file.candidates[place];
  if (candidate)
    return {
      name: candidate.name,
      algorithm: candidate.algorithm,
      engine: candidate.engine,
      settings: told(candidate.algorithm, candidate.settings),
      search: candidate.search,
    };
  const algorithm = "boosted_trees";
  return { name: proposedName(file, algorithm), algorithm, engine: "auto", settings: {}, search: undefined };
}

const cleanRange = (range: RangeFile): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(range).filter(
      ([name, value]) =>
        value !== undefined &&
        value !== "" &&
        !(name === "scale" && value === "linear") &&
        !(name === "whole" && value === false),
    ),
  );

/** A search as the file has it: what is as usual is left out. */
const searchEntry = (search: SearchFile) => ({
  how: search.how,
  trials: search.trials,
  ...(search.seed === 1 ? {} : { seed: search.seed }),
  ...(search.metric ? { metric: search.metric } : {}),
  ...(search.most_minutes ? { most_minutes: search.most_minutes } : {}),
  ...(search.stop_after ? { stop_after: search.stop_after } : {}),
  try: search.try.map(cleanRange),
});

/** A candidate as the file has it. @param note what the form does not show, and stays */
export function candidateEntry(draft: CandidateDraft, note: string | undefined): Record<string, unknown> {
  const settings = told(draft.algorithm, draft.settings);
  return {
    name: draft.name.trim(),
    ...(note === undefined ? {} : { note }),
    algorithm: draft.algorithm,
    ...(draft.engine === "auto" ? {} : { engine: draft.engine }),
    ...(Object.keys(settings).length > 0 ? { settings } : {}),
    ...(draft.search && draft.search.try.length > 0 ? { search: searchEntry(draft.search) } : {}),
  };
}
