import type { Catalog, CatalogColumn } from "@/core/plan/catalog";
import { valueTypeFromName } from "@/core/value-type";

const columns = (definitions: Readonly<Record<string, string>>): CatalogColumn[] =>
  Object.entries(definitions).map(([name, declared]) => ({
    name,
    declared: declared.replace(" not null", ""),
    type: valueTypeFromName(declared.replace(" not null", "")),
    nullable: !declared.endsWith(" not null"),
  }));

/** The demo's tables as the catalog would report them, for tests that need no database. */
export const DEMO_CATALOG: Catalog = {
  tables: [
    {
      schema: "larkmere",
      table: "parcels",
      columns: columns({
        parcel_id: "bigint not null",
        recipient_id: "integer not null",
        site_id: "integer not null",
        carrier: "text not null",
        size_class: "text not null",
        weight_g: "integer",
        booked_at: "timestamp with time zone not null",
        delivered_at: "timestamp with time zone",
        deadline_at: "timestamp with time zone",
        collected_at: "timestamp with time zone",
        reminders_sent: "integer not null",
      }),
    },
    {
      schema: "larkmere",
      table: "sites",
      columns: columns({
        site_id: "integer not null",
        town: "text not null",
        setting: "text not null",
        compartments: "integer not null",
        sheltered: "boolean not null",
        opened_on: "date not null",
      }),
    },
    {
      schema: "larkmere",
      table: "recipients",
      columns: columns({
        recipient_id: "integer not null",
        age_band: "text",
        notice_preference: "text not null",
        joined_on: "date not null",
      }),
    },
    {
      schema: "larkmere",
      table: "weather",
      columns: columns({
        town: "text not null",
        observed_at: "timestamp with time zone not null",
        rain_mm: "double precision",
        temperature_c: "double precision",
        wind_ms: "double precision",
      }),
    },
  ],
};
