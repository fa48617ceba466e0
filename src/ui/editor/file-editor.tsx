"use client";
import { autocompletion } from "@codemirror/autocomplete";
import { yaml } from "@codemirror/lang-yaml";
import { linter, lintGutter, type Diagnostic } from "@codemirror/lint";
import { EditorView } from "@codemirror/view";
import CodeMirror from "@uiw/react-codemirror";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import type { Problem } from "@/core/problem";
import { savePipeline } from "@/server/actions";
import { editorLook } from "../basic/editor-look";
import { fetchJson } from "../basic/fetch-json";
import { Problems } from "../basic/problems";
import type { EditorWords } from "@/server/editor-words";
import { completionOf } from "./completion";
import { SaveDialog } from "./save-dialog";

const CHECK_PAUSE_MILLISECONDS = 450;

interface Props {
  readonly text: string;
  readonly words: EditorWords;
  /** Absent when a new pipeline is being written. */
  readonly pipeline?: { readonly name: string; readonly version: number };
}

/** The pipeline file as text, with completion and errors in place; saving makes a new version after showing the difference. */
export function FileEditor({ text, words, pipeline }: Props) {
  const router = useRouter();
  const [draft, setDraft] = useState(text);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [checking, setChecking] = useState(false);
  const [saving, setSaving] = useState(false);
  const view = useRef<EditorView>(null);
  const changed = draft !== text;
  useEffect(() => setDraft(text), [text]);
  useEffect(() => {
    if (!changed) return undefined;
    const warn = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [changed]);
  const extensions = useMemo(() => {
    const check = linter(async (editor): Promise<Diagnostic[]> => {
      setChecking(true);
      try {
        const answer = await fetchJson<{ problems: readonly Problem[] }>("/api/check", { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ text: editor.state.doc.toString() }) });
        setProblems(answer.problems);
        return answer.problems.flatMap((each): Diagnostic[] => {
          const number = each.location?.line;
          if (!number || number > editor.state.doc.lines) return [];
          const line = editor.state.doc.line(number);
          const from = Math.min(line.to, line.from + Math.max(0, (each.location?.column ?? 1) - 1));
          return [{ from, to: Math.max(from, line.to), severity: each.severity, message: `${each.message}${each.hint ? ` ${each.hint}` : ""}` }];
        });
      } catch (error) {
        toast.error("The file could not be checked.", { description: error instanceof Error ? error.message : String(error) });
        return [];
      } finally {
        setChecking(false);
      }
    }, { delay: CHECK_PAUSE_MILLISECONDS });
    return [yaml(), check, lintGutter(), EditorView.lineWrapping, autocompletion({ override: [completionOf(words)] }), EditorView.contentAttributes.of({ "aria-label": "Pipeline file" }), ...editorLook];
  }, [words]);
  const goTo = (found: Problem): void => {
    const editor = view.current;
    const number = found.location?.line;
    if (!editor || !number || number > editor.state.doc.lines) return;
    const position = editor.state.doc.line(number).from + Math.max(0, (found.location?.column ?? 1) - 1);
    editor.dispatch({ selection: { anchor: Math.min(position, editor.state.doc.length) }, scrollIntoView: true });
    editor.focus();
  };
  const save = async (note: string): Promise<void> => {
    const outcome = await savePipeline({ text: draft, note, ...(pipeline ? { basedOn: pipeline.version, expectedName: pipeline.name } : {}) });
    setSaving(false);
    if (!outcome.ok) {
      setProblems(outcome.problems);
      for (const each of outcome.problems.slice(0, 3)) toast.error(each.message, { description: each.hint });
      return;
    }
    toast.success(outcome.value.fresh ? `Saved as version ${outcome.value.version}.` : "Nothing had changed.");
    if (pipeline) router.refresh();
    else router.push(`/pipelines/${encodeURIComponent(outcome.value.name)}/braid`);
  };
  const errors = problems.filter((each) => each.severity === "error").length;
  return (
    <section aria-label="File" className="flex h-full min-h-0 flex-col bg-paper">
      <div className="flex items-center gap-3 border-b border-rule px-3 py-1.5">
        <span className="text-sm text-faded" role="status">{checking ? "checking …" : errors > 0 ? `${errors} error${errors === 1 ? "" : "s"}` : changed ? "checked, not saved" : pipeline ? `version ${pipeline.version}` : "checked"}</span>
        <div className="ml-auto flex gap-2">
          {changed && pipeline && <button type="button" className="press press-quiet" onClick={() => setDraft(text)}>Undo all</button>}
          <button type="button" className="press press-main" disabled={errors > 0 || (!changed && pipeline !== undefined)} onClick={() => setSaving(true)}>Save version</button>
        </div>
      </div>
      <div className="min-h-0 flex-1 overflow-auto" data-testid="file-editor">
        <CodeMirror value={draft} onChange={setDraft} theme="none" extensions={extensions} onCreateEditor={(editor) => { view.current = editor; }} basicSetup={{ foldGutter: true }} height="100%" className="h-full" />
      </div>
      {problems.length > 0 && <div className="max-h-44 overflow-auto border-t border-rule px-3 py-2 text-sm"><Problems problems={problems} onPick={goTo} /></div>}
      <SaveDialog open={saving} onOpenChange={setSaving} before={pipeline ? text : ""} after={draft} onSave={save} />
    </section>
  );
}
