import { FieldRow } from "./field-row";
import type { NewPipelineForm } from "./use-new-pipeline";

/** Which columns name one row: proposed, and to be changed. */
export function KeyField({ state }: { readonly state: NewPipelineForm }) {
  const { outline, proposal, findings, change, choices, failure } = state;
  const { key } = proposal.pipeline;
  const proposed = choices.key === undefined && proposal.key;
  return (
    <FieldRow name="Key" hint="columns that identify one row" finding={findings.key}>
      {(trouble) => (
        <>
          <div
            role="group"
            aria-label="Key"
            aria-describedby={trouble}
            className="flex max-h-32 max-w-xl flex-wrap gap-x-5 gap-y-1 overflow-auto pt-1"
          >
            {!outline && (
              <span className="text-faded" role="status">
                {waitingWords(choices.table, failure)}
              </span>
            )}
            {outline?.columns.map(({ name }) => (
              <label key={name} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="accent-(--woad)"
                  checked={key.includes(name)}
                  onChange={(event) =>
                    change({
                      key: event.target.checked ? [...key, name] : key.filter((other) => other !== name),
                    })
                  }
                />
                {name}
              </label>
            ))}
          </div>
          {proposed && <p className="text-caption text-faded">proposed: {proposed.because}</p>}
        </>
      )}
    </FieldRow>
  );
}

/** What stands where columns will be. */
function waitingWords(table: string, failure: string | undefined): string {
  if (failure !== undefined) return failure;
  return table === "" ? "choose a table first" : "analysing the table …";
}
