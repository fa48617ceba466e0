"use client";
import { METRIC_NAMES, METRICS, type MetricName } from "@/core/evaluate/metrics";
import { BriefLine } from "./brief-line";
import { TypedLine } from "./typed-line";
import { useBrief } from "./use-brief";
import { MetricSelect } from "../select/metric-select";

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
      <span className="flex items-center gap-2 font-sans text-caption">
        <MetricSelect
          label="Metric of success"
          className="py-0.5"
          value={metric}
          metrics={METRIC_NAMES}
          empty="not set"
          onChange={(name) => put(["success"], criterionFor(name, level))}
        />
        {metric !== "" && (
          <>
            <span className="whitespace-nowrap">of {bound.replace("_", " ")}</span>
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
