import fc from "fast-check";
import { parse, stringify } from "yaml";
import { unwrap } from "../../problem";
import { changeStep, insertStep, moveStep, removeStep } from "./steps";
import { stepsNow } from "./steps-now";

const fileOf = (steps: readonly object[]): string =>
  stringify({ strands: [{ name: "rows", from: "a.b", steps }] });
const stepsIn = (text: string): { where: string }[] =>
  (parse(text) as { strands: { steps: { where: string }[] }[] }).strands[0]!.steps;
const at = (position: number) => ({ strand: 0, position });

test("a step is found where moves, additions and removals of others have put it", () => {
  const edit = fc.record({ kind: fc.constantFrom("move", "insert", "remove"), from: fc.nat(), to: fc.nat() });
  fc.assert(
    fc.property(fc.integer({ min: 3, max: 8 }), fc.array(edit, { maxLength: 6 }), (count, edits) => {
      const before = fileOf(Array.from({ length: count }, (_, id) => ({ do: "filter", where: `x > ${id}` })));
      let now = before;
      for (const [number, { kind, from, to }] of edits.entries()) {
        const length = stepsIn(now).length;
        const place = at(from % length);
        if (kind === "move") now = unwrap(moveStep(now, place, to % length));
        if (kind === "insert") now = unwrap(insertStep(now, place, { do: "filter", where: `y > ${number}` }));
        if (kind === "remove" && length > 1) now = unwrap(removeStep(now, place));
      }
      const find = stepsNow(before, now);
      const left = stepsIn(now).map(({ where }) => where);
      stepsIn(before).forEach(({ where }, position) => {
        const found = find(at(position));
        // As many steps as before: what took the place of a step that is gone may count as that step, changed.
        if (left.includes(where)) expect(found).toEqual(at(left.indexOf(where)));
        else if (left.length !== count) expect(found).toBeUndefined();
      });
    }),
  );
});

test("a changed step is still the same one, by its name or by what is left of the others", () => {
  const named = ["near", "far", "late"].map((name, id) => ({ do: "filter", name, where: `x > ${id}` }));
  const plain = named.map(({ do: kind, where }) => ({ do: kind, where }));
  for (const steps of [named, plain]) {
    const before = fileOf(steps);
    const changed = unwrap(changeStep(before, at(2), [{ path: ["where"], value: "z" }]));
    const moved = unwrap(moveStep(changed, at(2), 0));
    expect(stepsNow(before, moved)(at(2))).toEqual(at(0));
  }
});

test("of steps that are alike the first is the first, and where nothing can be read nothing is found", () => {
  const alike = fileOf([1, 1, 2].map((id) => ({ do: "filter", where: `x > ${id}` })));
  expect(stepsNow(alike, unwrap(moveStep(alike, at(2), 0)))(at(1))).toEqual(at(2));
  expect(stepsNow(alike, "")(at(0))).toBeUndefined();
  expect(stepsNow(alike, "strands: [")(at(0))).toBeUndefined();
});
