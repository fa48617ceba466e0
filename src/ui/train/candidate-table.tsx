import { formatNumber } from "@/core/format/numbers";
import { factsOf } from "@/core/learn/algorithms";
import { fitCount } from "@/core/learn/search/space";
import type { Candidate, PipelineFile } from "@/core/pipeline/schema";
import { CandidateActions } from "./candidate-actions";
import { CandidateForm } from "./candidate-form";
import { fitsText, PLACES, searchText, settingsText } from "./candidate-words";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

type Steps = Parameters<typeof CandidateForm>[0]["steps"];

interface Props {
  readonly pipeline: string;
  readonly file: PipelineFile;
  /** Steps with settings that a search can try. */
  readonly steps: Steps;
}

/** The candidates of a file, each of which is edited, trained or removed. */
export function CandidateTable({ pipeline, file, steps }: Props) {
  return (
    <>
      <div className="flex items-center gap-4">
        <h2>Candidates</h2>
        <CandidateForm pipeline={pipeline} file={file} steps={steps} place={null}>
          <button type="button" className="press">
            Add candidate
          </button>
        </CandidateForm>
      </div>
      <Sheet className="mt-1" data-testid="candidates">
        <thead>
          <tr>
            <th>Candidate</th>
            <th>Algorithm</th>
            <th>Settings</th>
            <th>Place</th>
            <th className="number">Fits</th>
            <HiddenHead name="Actions" />
          </tr>
        </thead>
        <tbody>
          {file.candidates.map((candidate, place) => (
            <CandidateRow
              key={candidate.name}
              candidate={candidate}
              place={place}
              pipeline={pipeline}
              file={file}
              steps={steps}
            />
          ))}
        </tbody>
      </Sheet>
    </>
  );
}

function CandidateRow({
  candidate,
  place,
  pipeline,
  file,
  steps,
}: Props & { readonly candidate: Candidate; readonly place: number }) {
  const { fits, ...parts } = fitCount(candidate, file);
  return (
    <tr>
      <td>
        <CandidateForm pipeline={pipeline} file={file} steps={steps} place={place}>
          <button
            type="button"
            className="text-left font-medium underline decoration-rule underline-offset-3"
            title="Edit"
          >
            {candidate.name}
          </button>
        </CandidateForm>
        {candidate.note && <span className="block text-caption text-faded">{candidate.note}</span>}
      </td>
      <td>{factsOf(candidate.algorithm).title}</td>
      <td className="text-caption text-faded">
        {settingsText(candidate)}
        {candidate.search && <span className="block">searches {searchText(candidate)}</span>}
      </td>
      <td className="text-caption">{PLACES[candidate.engine]}</td>
      <td className="number" title={fitsText(parts)}>
        {formatNumber(fits)}
      </td>
      <td className="text-right">
        <CandidateActions
          pipeline={pipeline}
          candidate={candidate.name}
          place={place}
          only={file.candidates.length === 1}
        />
      </td>
    </tr>
  );
}
