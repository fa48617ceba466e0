import { printMetrics } from "@/core/open-metrics";
import { appContext } from "@/server/context";
import { metricFamilies } from "@/server/health";

/** Metrics in the OpenMetrics text format, for whoever collects them. */
export async function GET(): Promise<Response> {
  return new Response(printMetrics(await metricFamilies(await appContext())), {
    headers: {
      "content-type": "application/openmetrics-text; version=1.0.0; charset=utf-8",
      "cache-control": "no-store",
    },
  });
}
