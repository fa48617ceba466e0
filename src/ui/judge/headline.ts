import { formatNumber } from "@/core/format/numbers";
import { METRICS, type Figures, type MetricName } from "@/core/evaluate/metrics";

const FIRST: readonly MetricName[] = ["auc", "rmse", "accuracy"];

/** The figure that is told where there is room for one: "AUC 0.812". */
export function headline(figures: Figures): string {
  const name = FIRST.find((text) => typeof figures[text] === "number");
  return name ? `${METRICS[name].title} ${formatNumber(figures[name])}` : "–";
}
