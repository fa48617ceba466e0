import { searchTables, type SearchedTable } from "./search-tables";

const entry = (table: string, more: Partial<SearchedTable> = {}): SearchedTable => ({
  schema: "s",
  table,
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
const names = (wanted: string): readonly string[] =>
  searchTables(entries, wanted).map((found) => found.entry.table);

test("a search looks through names, columns, descriptions and pipelines; all words must occur", () => {
  expect(names("")).toEqual(["parcels", "weather"]);
  expect(names("PARC")).toEqual(["parcels"]);
  expect(names("grams")).toEqual(["parcels"]);
  expect(names("delivered weight")).toEqual(["parcels"]);
  expect(names("weather weight")).toEqual([]);
  expect(names("late")).toEqual(["weather"]);
  expect(searchTables(entries, "rain")[0]!.columns.map(({ name }) => name)).toEqual(["rain_mm"]);
});
