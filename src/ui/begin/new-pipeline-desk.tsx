"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { Problem } from "@/core/problem";
import { saveNewPipeline } from "@/server/actions";
import type { EditorWords } from "@/server/editor-words";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { AnswerFields } from "./answer-fields";
import { BeginningPreview } from "./beginning-preview";
import { FieldRow } from "./field-row";
import { NewFile } from "./new-file";
import { KeyField } from "./key-field";
import { PreparationList } from "./preparation-list";
import { useBeginning } from "./use-beginning";
import { Select } from "../select/select";

interface Props {
  readonly words: EditorWords;
  /** Table to begin with, from the address. */
  readonly table: string | undefined;
  /** Names that pipelines have. */
  readonly taken: readonly string[];
}

const EMPTY_FILE = "ravlen: 1\nname: \n";

/** A new pipeline: a table and an answer are chosen, the rest is proposed; or it is written as a file. */
export function NewPipelineDesk({ words, table, taken }: Props) {
  const router = useRouter();
  const state = useBeginning(table, taken);
  const { wishes, change, beginning, problems, text } = state;
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
  const missing = [...problems.values()].find(({ stops }) => stops);
  const { preparations } = beginning;
  return (
    <div className="page grid flex-1 grid-cols-[minmax(0,11fr)_minmax(0,9fr)] gap-10 pb-10">
      <form
        className="space-y-4"
        aria-label="New pipeline"
        onSubmit={(event) => {
          event.preventDefault();
          if (!missing) void make(text);
        }}
      >
        <FieldRow name="Table" hint="the rows to predict; join others later" problem={problems.get("table")}>
          {(trouble) => (
            <Select
              label="Table"
              describedBy={trouble}
              className="w-full max-w-xl"
              value={wishes.table}
              autoFocus={table === undefined}
              options={words.tables}
              onChange={(chosen) => change({ table: chosen })}
            />
          )}
        </FieldRow>
        <AnswerFields state={state} isFirst={table !== undefined} />
        <KeyField state={state} />
        {preparations.length > 0 && (
          <PreparationList
            preparations={preparations}
            without={wishes.without}
            onChange={(without) => change({ without })}
          />
        )}
        <FieldRow name="Name" problem={problems.get("name")}>
          {(trouble) => (
            <input
              aria-label="Name"
              aria-describedby={trouble}
              className="field w-full max-w-xl"
              value={wishes.name ?? beginning.pipeline.name}
              onChange={(event) => change({ name: event.target.value })}
            />
          )}
        </FieldRow>
        <FieldRow name="Question" hint="optional" problem={undefined}>
          {() => (
            <input
              aria-label="Question"
              className="field w-full max-w-xl"
              value={wishes.question}
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
      <BeginningPreview state={state} />
    </div>
  );
}
