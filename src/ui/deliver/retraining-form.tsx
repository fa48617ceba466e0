"use client";
import { useState } from "react";
import { toast } from "sonner";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Retraining } from "@/core/pipeline/operating-schema";
import type { Problem } from "@/core/problem";
import { saveParts } from "@/server/file-actions";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { usePageRefresh } from "../basic/page-refresh";

interface Props {
  readonly pipeline: string;
  readonly target: PipelineFile["roles"]["target"]["kind"];
  readonly retraining: Retraining | undefined;
  /** Roles that may ask the functions; undefined when none are published. */
  readonly functions: readonly string[] | undefined;
}

const RULES: Readonly<Record<Retraining["rule"], string>> = {
  never: "stays a candidate until you decide",
  when_better: "is put in service if better",
  always: "is always put in service",
};

/** What becomes of a version that a schedule has trained, and whether the one in service can be asked in SQL. */
export function RetrainingForm({ pipeline, target, retraining, functions }: Props) {
  const refresh = usePageRefresh();
  const [rule, setRule] = useState(retraining?.rule ?? "never");
  const [metric, setMetric] = useState<string>(retraining?.metric ?? "");
  const [margin, setMargin] = useState(String(retraining?.margin ?? 0));
  const [published, setPublished] = useState(functions !== undefined);
  const [roles, setRoles] = useState((functions ?? []).join(", "));
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const named = roles
    .split(",")
    .map((each) => each.trim())
    .filter((each) => each !== "");
  const wished = {
    retraining:
      rule === "never"
        ? null
        : {
            rule,
            ...(metric === "" ? {} : { metric }),
            ...(rule === "when_better" && Number(margin) !== 0 ? { margin: Number(margin) } : {}),
          },
    functions: published ? (named.length > 0 ? { grant_to: named } : {}) : null,
  };
  const [first] = useState(JSON.stringify(wished));
  const save = async (): Promise<void> => {
    const outcome = await ask(() =>
      saveParts({
        pipeline,
        note: "retraining rule and functions changed",
        parts: wished,
      }),
    );
    if (!outcome.ok) return setProblems(outcome.problems);
    setProblems([]);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  return (
    <form
      aria-label="Retraining"
      className="mt-3"
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          A version trained by a schedule{" "}
          <select
            className="field"
            value={rule}
            onChange={(event) => setRule(event.target.value as Retraining["rule"])}
          >
            {Object.entries(RULES).map(([name, says]) => (
              <option key={name} value={name}>
                {says}
              </option>
            ))}
          </select>
        </label>
        {rule === "when_better" && (
          <label className="flex items-center gap-2">
            by{" "}
            <input
              aria-label="Margin"
              className="field figure w-20"
              value={margin}
              onChange={(event) => setMargin(event.target.value)}
            />{" "}
            of{" "}
            <select
              aria-label="Metric of the margin"
              className="field"
              value={metric}
              onChange={(event) => setMetric(event.target.value)}
            >
              <option value="">the brief’s metric</option>
              {metricsFor(target).map((name: MetricName) => (
                <option key={name} value={name}>
                  {METRICS[name].title}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-2">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={published}
            onChange={(event) => setPublished(event.target.checked)}
          />
          publish the version in service as SQL functions in the warehouse
        </label>
        {published && (
          <label className="flex items-center gap-2">
            for the roles{" "}
            <input
              aria-label="Roles that may call them"
              className="field w-48"
              value={roles}
              placeholder="such as analysts, night_desk"
              onChange={(event) => setRoles(event.target.value)}
            />
          </label>
        )}
        <button
          type="submit"
          className="press"
          disabled={busy || JSON.stringify(wished) === first || Number.isNaN(Number(margin))}
        >
          Save
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
