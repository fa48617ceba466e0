import { addressOf, ReadAheadTimes } from "./read-ahead-times";

test("a page is old if it was read ahead some seconds ago, also when its link was pointed at again since", () => {
  const times = new ReadAheadTimes();
  times.note("/runs", 1000);
  expect(times.isOld("/runs", 2000)).toBe(false);
  times.note("/runs", 20_000);
  expect(times.isOld("/runs", 20_100)).toBe(true);
  times.note("/runs", 60_000);
  expect(times.isOld("/runs", 60_100)).toBe(false);
  expect(times.isOld("/models", 60_100)).toBe(false);
});

test("a link is known by the address that the browser shows", () => {
  expect(addressOf("/tables?q=two words#rows")).toBe("/tables?q=two+words");
  expect(addressOf("/pipelines/ä b/train")).toBe("/pipelines/%C3%A4%20b/train");
});
