"use client";
import { useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import type { Problem } from "@/core/problem";
import { newPipelineText } from "@/core/pipeline/edit/new-pipeline";
import { parseTableName } from "@/core/pipeline/table-name";
import { savePipeline } from "@/server/actions";
import type { EditorWords } from "@/server/editor-words";
import { postJson } from "../basic/fetch-json";
import { Problems } from "../basic/problems";
import { FileEditor } from "./file-editor";
import { useAction } from "../basic/use-action";

const KINDS = [
  ["binary", "yes or no"],
  ["number", "a number"],
  ["classes", "one of several classes"],
] as const;
const FROM_EXPRESSION = "=";
const CHECK_MILLISECONDS = 400;

interface Props {
  readonly words: EditorWords;
  /** Table to begin with, from the address. */
  readonly table: string | undefined;
}

/** A new pipeline: by answering what is asked, or as a file. */
export function NewPipelineDesk({ words, table: first }: Props) {
  const router = useRouter();
  const [name, setName] = useState("");
  const [question, setQuestion] = useState("");
  const [table, setTable] = useState(first ?? "");
  const [key, setKey] = useState<readonly string[]>([]);
  const [target, setTarget] = useState("");
  const [expression, setExpression] = useState("");
  const [kind, setKind] = useState<"binary" | "number" | "classes">("binary");
  const [positive, setPositive] = useState("");
  const [file, setFile] = useState<string>();
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const [reading, setReading] = useState(false);
  const reference = parseTableName(table);
  const columns = words.columns.filter(
    (each) => each.table === reference?.table && words.tables.includes(table),
  );
  const chosen = columns.find((each) => each.name === target);
  const needsPositive = kind === "binary" && chosen !== undefined && chosen.type !== "boolean";
  const text = (): string =>
    file ??
    newPipelineText({
      name: name.trim(),
      question,
      table,
      key,
      kind,
      target: target === FROM_EXPRESSION ? { expression } : { column: target },
      ...(needsPositive && positive !== ""
        ? { positive: /^-?\d+(\.\d+)?$/.test(positive) ? Number(positive) : positive }
        : {}),
    });
  useEffect(() => {
    if (file === undefined) return undefined;
    const stop = new AbortController();
    setReading(true);
    const timer = setTimeout(() => {
      postJson<{ problems: readonly Problem[] }>("/api/check", { text: file }, stop.signal)
        .then(
          (answer) => setProblems(answer.problems),
          () => undefined,
        )
        .finally(() => setReading(false));
    }, CHECK_MILLISECONDS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [file]);
  const make = async (): Promise<void> => {
    const outcome = await ask(() => savePipeline({ text: text() }));
    if (outcome.ok) router.push(`/pipelines/${encodeURIComponent(outcome.value.name)}/braid`);
    else setProblems(outcome.problems);
  };
  const ready =
    file !== undefined ||
    (name.trim() !== "" &&
      table !== "" &&
      key.length > 0 &&
      (target === FROM_EXPRESSION ? expression.trim() !== "" : target !== ""));
  const label = "grid grid-cols-[190px_1fr] items-start gap-4";
  const big = "field w-full max-w-xl";
  return (
    <div className="mx-auto flex w-full max-w-4xl flex-1 flex-col px-5 pb-6">
      {file === undefined ? (
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            void make();
          }}
        >
          <label className={label}>
            <span>
              Name<span className="block text-sm text-faded">letters, digits, - and _</span>
            </span>
            <input
              className={big}
              value={name}
              onChange={(event) => setName(event.target.value)}
              autoFocus
              placeholder="late-parcels"
            />
          </label>
          <label className={label}>
            <span>
              Question<span className="block text-sm text-faded">what shall be predicted</span>
            </span>
            <input
              className={big}
              value={question}
              onChange={(event) => setQuestion(event.target.value)}
              placeholder="Will this parcel be late?"
            />
          </label>
          <label className={label}>
            <span>
              Table
              <span className="block text-sm text-faded">
                whose rows are predicted; others are joined later
              </span>
            </span>
            <select
              className={big}
              value={table}
              onChange={(event) => {
                setTable(event.target.value);
                setKey([]);
                setTarget("");
              }}
            >
              <option value="">choose …</option>
              {words.tables.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
          <div className={label}>
            <span>
              Key<span className="block text-sm text-faded">columns that name one row</span>
            </span>
            <div
              role="group"
              aria-label="Key"
              className="flex max-h-40 max-w-xl flex-wrap gap-x-5 gap-y-1 overflow-auto"
            >
              {columns.length === 0 ? (
                <span className="text-faded">choose a table first</span>
              ) : (
                columns.map((each) => (
                  <label key={each.name} className="flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      className="accent-(--woad)"
                      checked={key.includes(each.name)}
                      onChange={(event) =>
                        setKey(
                          event.target.checked
                            ? [...key, each.name]
                            : key.filter((other) => other !== each.name),
                        )
                      }
                    />
                    {each.name}
                  </label>
                ))
              )}
            </div>
          </div>
          <label className={label}>
            <span>
              Answer
              <span className="block text-sm text-faded">
                the column to predict; missing where it is not known yet
              </span>
            </span>
            <select
              className={big}
              value={target}
              disabled={columns.length === 0}
              onChange={(event) => setTarget(event.target.value)}
            >
              <option value="">choose …</option>
              <option value={FROM_EXPRESSION}>an expression, which gives a new column “answer”</option>
              {columns.map((each) => (
                <option key={each.name} value={each.name}>
                  {each.name} ({each.type})
                </option>
              ))}
            </select>
          </label>
          {target === FROM_EXPRESSION && (
            <label className={label}>
              <span>Expression</span>
              <input
                className={`${big} font-mono`}
                value={expression}
                onChange={(event) => setExpression(event.target.value)}
                placeholder="collected_at > delivered_at + interval '72 hours'"
              />
            </label>
          )}
          <label className={label}>
            <span>It is</span>
            <select
              className={big}
              value={kind}
              onChange={(event) => setKind(event.target.value as typeof kind)}
            >
              {KINDS.map(([value, words2]) => (
                <option key={value} value={value}>
                  {words2}
                </option>
              ))}
            </select>
          </label>
          {needsPositive && (
            <label className={label}>
              <span>Value that means yes</span>
              <input className={big} value={positive} onChange={(event) => setPositive(event.target.value)} />
            </label>
          )}
          <div className={label}>
            <span />
            <div className="space-y-3">
              <Problems problems={problems} />
              <div className="flex gap-3">
                <button type="submit" className="press press-main" disabled={!ready || busy}>
                  Make the pipeline
                </button>
                <button
                  type="button"
                  className="press press-quiet"
                  onClick={() => setFile(ready ? text() : "ravlen: 1\nname: \n")}
                >
                  Write or paste the file instead
                </button>
              </div>
            </div>
          </div>
        </form>
      ) : (
        <>
          <div className="min-h-[420px] flex-1 border border-rule">
            <FileEditor text={file} onChange={setFile} words={words} problems={problems} reading={reading} />
          </div>
          <div className="mt-3 flex gap-3">
            <button
              type="button"
              className="press press-main"
              disabled={busy || reading || problems.some((each) => each.severity === "error")}
              onClick={() => void make()}
            >
              Make the pipeline
            </button>
            <button
              type="button"
              className="press press-quiet"
              onClick={() => {
                setFile(undefined);
                setProblems([]);
              }}
            >
              Back to the questions
            </button>
          </div>
        </>
      )}
    </div>
  );
}
