import { writeTableName } from "@/core/pipeline/table-name";
import { isMoment } from "@/core/value-type";
import type { DeliverPageData } from "@/server/deliver-page";
import type { DeliveryFacts } from "@/ui/deliver/delivery-draft";
import type { ScheduleFacts } from "@/ui/deliver/schedule-draft";

/** What the form of a delivery offers. @param threshold of a new delivery, where one was chosen */
export function deliveryFacts(data: DeliverPageData, threshold: number | undefined): DeliveryFacts {
  const { checked, file, pipeline, deliveries, outputSchema } = data;
  const columns = checked.ok
    ? [...checked.value.main.output.keys()].filter((column) => !checked.value.file.roles.key.includes(column))
    : [];
  return {
    ...(threshold === undefined ? {} : { threshold }),
    pipeline: pipeline.name,
    schema: outputSchema,
    keys: file?.roles.key ?? [],
    taken: deliveries.map(({ name }) => name),
    target: file?.roles.target.kind ?? "binary",
    columns,
  };
}

/** What the form of a schedule offers. */
export function scheduleFacts(data: DeliverPageData): ScheduleFacts {
  const { checked, file, pipeline, pipelines, deliveries, tables, time } = data;
  const read = new Set((checked.ok ? checked.value.sources : []).map(writeTableName));
  return {
    pipeline: pipeline.name,
    taken: (file?.schedules ?? []).map(({ name }) => name),
    deliveries: deliveries.map(({ name }) => name),
    others: pipelines.map(({ name }) => name).filter((name) => name !== pipeline.name),
    sources: tables
      .filter((table) => read.has(writeTableName(table)))
      .map((table) => ({
        table: writeTableName(table),
        times: table.columns.filter((column) => isMoment(column.type)).map((column) => column.name),
      })),
    now: time.toISOString(),
  };
}
