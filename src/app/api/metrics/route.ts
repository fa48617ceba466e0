import { appContext } from "@/server/context";
import { metricFamilies } from "@/server/health";
import { METRICS_TYPE, printMetrics } from "@/server/open-metrics";

/** Metrics in the OpenMetrics text format, for whoever collects them. */
export async function GET(): Promise<Response> {
  return new Response(await printMetrics(await metricFamilies(await appContext())), {
    headers: { "content-type": METRICS_TYPE, "cache-control": "no-store" },
  });
}
