"use client";
import { METRIC_NAMES, METRICS, type MetricName } from "@/core/evaluate/metrics";
import { BriefLine } from "./brief-line";
import { TypedLine } from "./typed-line";
import { useBrief } from "./use-brief";

/** Levels that a new criterion begins with: of a metric that should be low, and of one that should be high. */
const [FIRST_MOST, FIRST_LEAST] = [0.2, 0.8];

/** A criterion for a metric, with the level as it was. */
function criterionFor(metric: string, level: unknown): unknown {
  if (metric === "") return "";
  return METRICS[metric as MetricName].better === "low"
    ? { metric, at_most: Number(level ?? FIRST_MOST) }
    : { metric, at_least: Number(level ?? FIRST_LEAST) };
}

/** The metric and level that count as success. */
export function SuccessLine() {
  const { text, value, put } = useBrief();
  const metric = text("success", "metric");
  const [least, most] = [value("success", "at_least"), value("success", "at_most")];
  const level = least ?? most;
  const bound = most === undefined ? "at_least" : "at_most";
  const putLevel = (typed: string): void => {
    const number = Number(typed);
    if (typed !== "" && !Number.isNaN(number)) put(["success", bound], number);
  };
  return (
    <BriefLine label="Success criterion">
      <span className="flex items-center gap-2 font-sans text-sm">
        <select
          aria-label="Metric of success"
          className="field py-0.5"
          value={metric}
          onChange={(event) => put(["success"], criterionFor(event.target.value, level))}
        >
          <option value="">not set</option>
          {METRIC_NAMES.map((name) => (
            <option key={name} value={name}>
              {METRICS[name].title}
            </option>
          ))}
        </select>
        {metric !== "" && (
          <>
            of {bound.replace("_", " ")}
            <TypedLine
              label="Level of success"
              value={text("success", bound)}
              onChange={putLevel}
              placeholder="such as 0.8"
              className="figure w-20"
            />
          </>
        )}
      </span>
    </BriefLine>
  );
}
