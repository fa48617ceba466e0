"use client";
import { useState } from "react";
import { toast } from "sonner";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Problem } from "@/core/problem";
import { saveParts } from "@/server/file-actions";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { usePageRefresh } from "../basic/page-refresh";

const HOLDOUTS = {
  key: "at random, by a hash of the key",
  stratified: "at random, the same share of every class",
  group: "whole groups",
  time: "everything from a moment on",
} as const;
const FOLDS = {
  key: "at random",
  stratified: "the same share of every class",
  group: "whole groups",
  time: "forward in time",
} as const;

/** Which rows judge: the holdout, a blind part, and folds. */
export function ValidationForm({
  pipeline,
  file,
}: {
  readonly pipeline: string;
  readonly file: PipelineFile;
}) {
  const refresh = usePageRefresh();
  const { holdout, folds, roles } = file;
  const [by, setBy] = useState(holdout.by);
  const [share, setShare] = useState(String(holdout.share));
  const [from, setFrom] = useState(holdout.from ?? "");
  const [blind, setBlind] = useState(
    String(holdout.by === "time" ? (holdout.blind?.from ?? "") : (holdout.blind?.share ?? "")),
  );
  const [count, setCount] = useState(folds ? String(folds.count) : "");
  const [foldBy, setFoldBy] = useState(folds?.by ?? "key");
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const numbers = roles.target.kind === "number";
  const save = async (): Promise<void> => {
    const outcome = await ask(() =>
      saveParts({
        pipeline,
        note: "holdout and folds changed",
        parts: {
          holdout: {
            by,
            ...(by === "time" ? { from } : { share: Number(share) }),
            seed: holdout.seed,
            ...(blind.trim() === ""
              ? {}
              : { blind: by === "time" ? { from: blind } : { share: Number(blind) } }),
          },
          folds: count.trim() === "" ? null : { count: Number(count), by: foldBy },
        },
      }),
    );
    if (!outcome.ok) return setProblems(outcome.problems);
    setProblems([]);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  return (
    <form
      aria-label="Which rows judge"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          Hold out{" "}
          <select className="field" value={by} onChange={(event) => setBy(event.target.value as typeof by)}>
            {Object.entries(HOLDOUTS)
              .filter(
                ([name]) =>
                  (name !== "stratified" || !numbers) &&
                  (name !== "group" || roles.group) &&
                  (name !== "time" || roles.time),
              )
              .map(([name, says]) => (
                <option key={name} value={name}>
                  {says}
                </option>
              ))}
          </select>
        </label>
        {by === "time" ? (
          <label className="flex items-center gap-2">
            from{" "}
            <input
              className="field figure w-32"
              value={from}
              placeholder="2026-05-01"
              onChange={(event) => setFrom(event.target.value)}
            />
          </label>
        ) : (
          <label className="flex items-center gap-2">
            share{" "}
            <input
              className="field figure w-20"
              value={share}
              onChange={(event) => setShare(event.target.value)}
            />
          </label>
        )}
        <label className="flex items-center gap-2">
          blind part {by === "time" ? "from" : "share"}{" "}
          <input
            className="field figure w-28"
            value={blind}
            placeholder="none"
            onChange={(event) => setBlind(event.target.value)}
          />
        </label>
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          Folds{" "}
          <input
            className="field figure w-16"
            value={count}
            placeholder="none"
            onChange={(event) => setCount(event.target.value)}
          />
        </label>
        <label className="flex items-center gap-2">
          made{" "}
          <select
            className="field"
            value={foldBy}
            onChange={(event) => setFoldBy(event.target.value as typeof foldBy)}
          >
            {Object.entries(FOLDS)
              .filter(
                ([name]) =>
                  (name !== "stratified" || !numbers) &&
                  (name !== "group" || roles.group) &&
                  (name !== "time" || roles.time),
              )
              .map(([name, says]) => (
                <option key={name} value={name}>
                  {says}
                </option>
              ))}
          </select>
        </label>
        <button type="submit" className="press" disabled={busy}>
          Save in the file
        </button>
      </div>
      {problems.length > 0 && (
        <div className="mt-2">
          <Problems problems={problems} />
        </div>
      )}
    </form>
  );
}
