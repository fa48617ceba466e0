"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useMemo } from "react";
import { useForm } from "react-hook-form";
import { ALGORITHM_NAMES, factsOf, type Algorithm } from "@/core/learn/algorithms";
import { fitCount } from "@/core/learn/search/space";
import type { PipelineFile } from "@/core/pipeline/schema";
import { saveListed } from "@/server/file-actions";
import { DialogForm, FormDialog } from "../basic/form-dialog";
import {
  candidateDraftSchema,
  candidateEntry,
  draftOf,
  proposedName,
  searchedSettings,
  type CandidateDraft,
} from "./candidate-draft";
import { PLACES } from "./candidate-words";
import type { SearchableStep } from "./search-range-row";
import { SearchFields } from "./search-fields";
import { SettingFields } from "./setting-fields";
import { FieldSelect } from "../select/field-select";

interface Props {
  readonly pipeline: string;
  readonly file: PipelineFile;
  /** Steps whose settings can be searched too. */
  readonly steps: readonly SearchableStep[];
  /** Place among the candidates; null for a new one. */
  readonly place: number | null;
}

/** Makes or changes a candidate: algorithm, settings, engine, and what a search tries. It is written into the file as its next version. */
export function CandidateForm({ children, ...props }: Props & { readonly children: React.ReactNode }) {
  return (
    <FormDialog trigger={children}>
      <CandidateFields {...props} />
    </FormDialog>
  );
}

function CandidateFields({ pipeline, file, steps, place }: Props) {
  const schema = useMemo(() => candidateDraftSchema(steps), [steps]);
  const { register, control, watch, setValue, getValues, formState } = useForm<CandidateDraft>({
    resolver: zodResolver(schema) as never,
    defaultValues: draftOf(file, place),
    mode: "onChange",
  });
  const draft = watch();
  const facts = factsOf(draft.algorithm);
  const usable = ALGORITHM_NAMES.filter((name) => factsOf(name).targets.includes(file.roles.target.kind));
  const put = <Name extends keyof CandidateDraft>(name: Name, value: CandidateDraft[Name]): void =>
    setValue(name, value as never, { shouldValidate: true, shouldDirty: true });
  const chooseAlgorithm = (algorithm: Algorithm): void => {
    if (draft.name === proposedName(file, draft.algorithm)) put("name", proposedName(file, algorithm));
    put("algorithm", algorithm);
    put("settings", {});
    put("engine", "auto");
    put("search", undefined);
  };
  const counted =
    draft.search && draft.search.try.length > 0
      ? fitCount({ ...file.candidates[0]!, search: draft.search }, file)
      : undefined;
  return (
    <DialogForm
      title={place === null ? "New candidate" : `Candidate “${draft.name}”`}
      incomplete={!formState.isValid}
      save={() => {
        const note = place === null ? undefined : file.candidates[place]?.note;
        return saveListed({
          pipeline,
          part: "candidates",
          place,
          entry: candidateEntry(getValues(), note),
        });
      }}
    >
      <div className="mt-4 grid grid-cols-[11rem_1fr] items-baseline gap-x-3 gap-y-3">
        <label htmlFor="candidate-name" className="font-medium">
          name
        </label>
        <input id="candidate-name" className="field w-80" {...register("name")} />
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
                onChange={() => chooseAlgorithm(name)}
              />
              <span>
                <span className="font-medium">{factsOf(name).title}</span>{" "}
                <span className="text-caption text-faded">{factsOf(name).about}</span>
              </span>
            </label>
          ))}
        </div>
        <label htmlFor="candidate-engine" className="font-medium">
          where
        </label>
        <FieldSelect
          control={control}
          name="engine"
          id="candidate-engine"
          label="where"
          className="w-96"
          options={[
            { value: "auto", label: `automatic place (${PLACES[facts.prefers(100_000, 20)]})` },
            ...facts.engines.map((engine) => ({ value: engine, label: PLACES[engine] })),
          ]}
        />
      </div>
      <h3 className="mb-2 mt-5 font-semibold">Settings</h3>
      <SettingFields
        algorithm={draft.algorithm}
        values={draft.settings}
        onChange={(name, value) => put("settings", { ...draft.settings, [name]: value })}
      />
      <SearchFields
        search={draft.search}
        settings={searchedSettings(draft.algorithm)}
        steps={steps}
        target={file.roles.target.kind}
        onChange={(search) => put("search", search)}
      />
      {counted && (
        <p className="mt-2 text-caption" data-testid="fits">
          Up to {counted.trials} combinations in {counted.folds} folds:{" "}
          <span className="figure font-semibold">{counted.fits}</span> fits in total.
        </p>
      )}
    </DialogForm>
  );
}
