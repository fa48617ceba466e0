import { search, type CatalogEntry } from "./search-tables";

const entry = (table: string, more: Partial<CatalogEntry> = {}): CatalogEntry => ({
  schema: "s",
  table,
  kind: "table",
  bytes: 0,
  rows: 0,
  estimate: null,
  changedAt: null,
  description: null,
  columns: [],
  reads: [],
  writes: [],
  ...more,
});
const entries = [
  entry("parcels", {
    description: "Everything delivered",
    columns: [{ name: "weight_g", description: "Weight in grams" }],
  }),
  entry("weather", { columns: [{ name: "rain_mm", description: null }], reads: ["late"] }),
];
const names = (wanted: string): readonly string[] => search(entries, wanted).map((each) => each.entry.table);

test("a search looks through names, columns, descriptions and pipelines; all words must occur", () => {
  expect(names("")).toEqual(["parcels", "weather"]);
  expect(names("PARC")).toEqual(["parcels"]);
  expect(names("grams")).toEqual(["parcels"]);
  expect(names("delivered weight")).toEqual(["parcels"]);
  expect(names("weather weight")).toEqual([]);
  expect(names("late")).toEqual(["weather"]);
  expect(search(entries, "rain")[0]!.columns.map((each) => each.name)).toEqual(["rain_mm"]);
});
