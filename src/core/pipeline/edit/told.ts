import {
  contractSchema,
  deliverySchema,
  scheduleSchema,
  type Delivery,
  type Schedule,
} from "../operating-schema";

type Entries = Readonly<Record<string, unknown>>;

/** The entries that differ from how they come when nothing is said. */
export function toldEntries(value: Entries, standard: Entries): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(value).filter(
      ([name, value]) => value !== undefined && JSON.stringify(value) !== JSON.stringify(standard[name]),
    ),
  );
}

/** A delivery as it has to stand in the file: its name, its table, and what is not as it comes. */
export function toldDelivery({ contract, ...delivery }: Delivery): Record<string, unknown> {
  const { name, table, mode } = delivery;
  const standard = deliverySchema.parse({ name: "-", table: "-" });
  const bounds = toldEntries(contract, contractSchema.parse({}));
  return {
    name,
    table,
    mode,
    ...toldEntries(delivery, standard),
    ...(Object.keys(bounds).length > 0 ? { contract: bounds } : {}),
  };
}

/** A schedule as it has to stand in the file. */
export function toldSchedule(schedule: Schedule): Record<string, unknown> {
  const { name, run, zone } = schedule;
  // The zone of a cron expression is said even where it is UTC: nobody should have to know what comes when nothing is said.
  const zoned = schedule.cron === undefined ? { ...schedule, zone: undefined } : schedule;
  return {
    name,
    run,
    ...(schedule.cron === undefined ? {} : { cron: schedule.cron, zone }),
    ...toldEntries(zoned, scheduleSchema.parse({ name: "-", run: "score" })),
  };
}
