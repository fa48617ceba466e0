"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { Problem } from "@/core/problem";
import { saveNewPipeline } from "@/server/actions";
import type { EditorWords } from "@/server/editor-words";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { TargetFields } from "./target-fields";
import { NewPipelinePreview } from "./new-pipeline-preview";
import { firstStop } from "./findings";
import { FieldRow } from "./field-row";
import { NewFile } from "./new-pipeline-file";
import { KeyField } from "./key-field";
import { PreparationList } from "./preparation-list";
import { useNewPipeline } from "./use-new-pipeline";
import { Select } from "../select/select";

interface Props {
  readonly words: EditorWords;
  /** Table to begin with, from the address. */
  readonly table: string | undefined;
  /** Names that pipelines have. */
  readonly taken: readonly string[];
}

const EMPTY_FILE = "ravlen: 1\nname: \n";

/** A new pipeline: a table and a target are chosen, the rest is proposed; or it is written as a file. */
export function NewPipelineDesk({ words, table, taken }: Props) {
  const router = useRouter();
  const state = useNewPipeline(table, taken);
  const { choices, change, proposal, findings, text, handleSubmit } = state;
  const [file, setFile] = useState<string>();
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const make = async (made: string): Promise<void> => {
    const outcome = await ask(() => saveNewPipeline(made));
    if (outcome.ok) router.push(`/pipelines/${encodeURIComponent(outcome.value.name)}/braid`);
    else setRefused(outcome.problems);
  };
  if (file !== undefined)
    return (
      <NewFile
        words={words}
        text={file}
        refused={refused}
        busy={busy}
        onChange={(changed) => {
          setRefused([]);
          setFile(changed);
        }}
        onMake={() => void make(file)}
        onBack={() => {
          setRefused([]);
          setFile(undefined);
        }}
      />
    );
  const missing = firstStop(findings);
  const { preparations } = proposal;
  return (
    <div className="page grid flex-1 grid-cols-[minmax(0,11fr)_minmax(0,9fr)] gap-10 2xl:grid-cols-[46rem_minmax(0,1fr)] pb-10">
      <form
        className="space-y-4"
        aria-label="New pipeline"
        onSubmit={(event) =>
          void handleSubmit(() => {
            if (!missing) void make(text);
          })(event)
        }
      >
        <FieldRow name="Table" hint="the rows to predict; join others later" finding={findings.table}>
          {(trouble) => (
            <Select
              label="Table"
              describedBy={trouble}
              className="w-full max-w-xl"
              value={choices.table}
              autoFocus={table === undefined}
              options={words.tables}
              onChange={(chosen) => change({ table: chosen })}
            />
          )}
        </FieldRow>
        <TargetFields state={state} isFirst={table !== undefined} />
        <KeyField state={state} />
        {preparations.length > 0 && (
          <PreparationList
            preparations={preparations}
            without={choices.without}
            onChange={(without) => change({ without })}
          />
        )}
        <FieldRow name="Name" finding={findings.name}>
          {(trouble) => (
            <input
              aria-label="Name"
              aria-describedby={trouble}
              className="field w-full max-w-xl"
              value={choices.name ?? proposal.pipeline.name}
              onChange={(event) => change({ name: event.target.value })}
            />
          )}
        </FieldRow>
        <FieldRow name="Question" hint="optional" finding={undefined}>
          {() => (
            <input
              aria-label="Question"
              className="field w-full max-w-xl"
              value={choices.question}
              onChange={(event) => change({ question: event.target.value })}
            />
          )}
        </FieldRow>
        <div className="ml-[166px] space-y-3">
          <Problems problems={refused} />
          <div className="flex flex-wrap items-center gap-3">
            <button
              type="submit"
              className="press press-main"
              disabled={missing !== undefined || busy}
              aria-describedby="why-not-yet"
            >
              Create pipeline
            </button>
            <button
              type="button"
              className="press press-quiet"
              onClick={() => {
                setRefused([]);
                setFile(missing ? EMPTY_FILE : text);
              }}
            >
              Paste a file instead
            </button>
          </div>
          <p id="why-not-yet" className="text-caption text-faded">
            {missing?.words}
          </p>
        </div>
      </form>
      <NewPipelinePreview state={state} />
    </div>
  );
}
