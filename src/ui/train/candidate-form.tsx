"use client";
import { useState } from "react";
import { ALGORITHM_NAMES, ALGORITHMS, factsOf, type Algorithm } from "@/core/learn/algorithms";
import { searchableSettings } from "@/core/learn/search/searchable";
import { toldEntries } from "@/core/pipeline/edit/told";
import { fitCount } from "@/core/learn/search/space";
import type { Candidate, PipelineFile, RangeFile, SearchFile } from "@/core/pipeline/schema";
import { saveListed } from "@/server/file-actions";
import { FormDialog } from "../basic/form-dialog";
import { freeTitle } from "../basic/free-title";
import { rangeMistake } from "./search-range";
import { settingsFor, type SearchableStep } from "./search-range-row";
import { SearchFields } from "./search-fields";
import { byUse, SettingFields, settingsOf } from "./setting-fields";

interface Props {
  readonly pipeline: string;
  readonly file: PipelineFile;
  /** Steps whose settings can be searched too. */
  readonly steps: readonly SearchableStep[];
  /** Place among the candidates; null for a new one. */
  readonly place: number | null;
  readonly children: React.ReactNode;
}

interface Draft {
  readonly name: string;
  readonly algorithm: Algorithm;
  readonly engine: Candidate["engine"];
  readonly settings: Readonly<Record<string, unknown>>;
  readonly search: SearchFile | undefined;
}

/** Settings that differ from their defaults: all that has to stand in the file. */
const told = (algorithm: Algorithm, settings: Readonly<Record<string, unknown>>): Record<string, unknown> =>
  toldEntries(
    settings,
    Object.fromEntries(settingsOf(algorithm).map(([name, { default: standard }]) => [name, standard])),
  );

function draftOf(file: PipelineFile, place: number | null): Draft {
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

/** What a candidate is called unless somebody says otherwise: its learner. */
const proposedName = ({ candidates }: PipelineFile, algorithm: Algorithm): string =>
  freeTitle(
    factsOf(algorithm).title.toLowerCase(),
    candidates.map(({ name }) => name),
  );

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

/** Makes or changes a candidate: learner, settings, engine, and what a search tries. It is written into the file as its next version. */
export function CandidateForm({ pipeline, file, steps, place, children }: Props) {
  const [draft, setDraft] = useState<Draft>(() => draftOf(file, place));
  const facts = factsOf(draft.algorithm);
  const usable = ALGORITHM_NAMES.filter((name) => factsOf(name).targets.includes(file.roles.target.kind));
  const change = (part: Partial<Draft>): void => setDraft((before) => ({ ...before, ...part }));
  const chooseLearner = (algorithm: Algorithm): void =>
    change({
      algorithm,
      settings: {},
      engine: "auto",
      search: undefined,
      ...(draft.name === proposedName(file, draft.algorithm) ? { name: proposedName(file, algorithm) } : {}),
    });
  // What the form does not show stays as the file has it.
  const note = place === null ? undefined : file.candidates[place]?.note;
  const candidate = {
    name: draft.name.trim(),
    ...(note === undefined ? {} : { note }),
    algorithm: draft.algorithm,
    ...(draft.engine === "auto" ? {} : { engine: draft.engine }),
    ...(Object.keys(told(draft.algorithm, draft.settings)).length > 0
      ? { settings: told(draft.algorithm, draft.settings) }
      : {}),
    ...(draft.search && draft.search.try.length > 0
      ? {
          search: {
            how: draft.search.how,
            trials: draft.search.trials,
            ...(draft.search.seed === 1 ? {} : { seed: draft.search.seed }),
            ...(draft.search.metric ? { metric: draft.search.metric } : {}),
            ...(draft.search.most_minutes ? { most_minutes: draft.search.most_minutes } : {}),
            ...(draft.search.stop_after ? { stop_after: draft.search.stop_after } : {}),
            try: draft.search.try.map(cleanRange),
          },
        }
      : {}),
  };
  const learnerSettings = byUse(searchableSettings(ALGORITHMS[draft.algorithm].settings));
  const mistaken = draft.search?.try.some(
    (range) =>
      rangeMistake(
        range,
        settingsFor(range.step, learnerSettings, steps).find(({ setting }) => setting === range.setting),
        draft.search!.how,
      ) !== undefined,
  );
  const counted =
    draft.search && draft.search.try.length > 0
      ? fitCount({ ...file.candidates[0]!, search: draft.search }, file)
      : undefined;
  return (
    <FormDialog
      title={place === null ? "New candidate" : `Candidate “${draft.name}”`}
      trigger={children}
      incomplete={draft.name.trim() === "" || mistaken === true}
      onOpen={() => setDraft(draftOf(file, place))}
      save={() => saveListed({ pipeline, part: "candidates", place, entry: candidate })}
    >
      <div className="mt-4 grid grid-cols-[11rem_1fr] items-baseline gap-x-3 gap-y-3">
        <label htmlFor="candidate-name" className="font-medium">
          name
        </label>
        <input
          id="candidate-name"
          className="field w-80"
          value={draft.name}
          onChange={(event) => change({ name: event.target.value })}
        />
        <span className="font-medium" id="learner-label">
          algorithm
        </span>
        <div role="radiogroup" aria-labelledby="learner-label" className="grid grid-cols-2 gap-x-6 gap-y-1">
          {usable.map((name) => (
            <label key={name} className="flex items-baseline gap-2">
              <input
                type="radio"
                name="algorithm"
                checked={draft.algorithm === name}
                onChange={() => chooseLearner(name)}
              />
              <span>
                <span className="font-medium">{factsOf(name).title}</span>{" "}
                <span className="text-sm text-faded">{factsOf(name).about}</span>
              </span>
            </label>
          ))}
        </div>
        <label htmlFor="candidate-engine" className="font-medium">
          where
        </label>
        <select
          id="candidate-engine"
          className="field w-80"
          value={draft.engine}
          onChange={(event) => change({ engine: event.target.value as Draft["engine"] })}
        >
          <option value="auto">
            automatic place (
            {facts.prefers(100_000, 20) === "warehouse"
              ? "rows stay in the warehouse"
              : "rows stream to the worker"}
            )
          </option>
          {facts.engines.map((each) => (
            <option key={each} value={each}>
              {each === "warehouse" ? "rows stay in the warehouse" : "rows stream to the worker"}
            </option>
          ))}
        </select>
      </div>
      <h3 className="mb-2 mt-5 font-semibold">Settings</h3>
      <SettingFields
        algorithm={draft.algorithm}
        values={draft.settings}
        onChange={(name, value) => change({ settings: { ...draft.settings, [name]: value } })}
      />
      <SearchFields
        search={draft.search}
        settings={learnerSettings}
        steps={steps}
        target={file.roles.target.kind}
        onChange={(search) => change({ search })}
      />
      {counted && (
        <p className="mt-2 text-sm" data-testid="fits">
          Up to {counted.trials} combinations in {counted.folds} folds:{" "}
          <span className="figure font-semibold">{counted.fits}</span> fits in total.
        </p>
      )}
    </FormDialog>
  );
}
