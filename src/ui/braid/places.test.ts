import { placeNow } from "./places";

const at = (after: number, strand = "rows") => ({ strand, after });

test("steps added faster than they are drawn stand in the order in which they were added", () => {
  const steps = ["a", "b", "c"];
  const added: { strand: string; after: number }[] = [];
  let selected: string | null = null;
  // What the drawing of a moment ago says of the end does not change meanwhile.
  for (const name of ["x", "y", "z"]) {
    const { after } = placeNow(at(3), added, selected);
    steps.splice(after, 0, name);
    added.push(at(3));
    selected = `rows:${after + 1}`;
  }
  expect(steps).toEqual(["a", "b", "c", "x", "y", "z"]);
});

test("only steps before a place push it on, and a place in the address is of the text as it is", () => {
  const added = [at(1), at(5), at(0, "other")];
  expect(placeNow(at(3), added, null)).toEqual(at(4));
  expect(placeNow(at(0), added, null)).toEqual(at(0));
  expect(placeNow(at(2), [at(1)], "rows:2")).toEqual(at(2));
});
