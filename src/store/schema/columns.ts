import { timestamp } from "drizzle-orm/pg-core";

/** A moment with its time zone. */
export const moment = (name: string) => timestamp(name, { withTimezone: true, mode: "date" });
/** When a row was written. */
export const created = () => moment("created_at").notNull().defaultNow();
