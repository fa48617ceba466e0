import fc from "fast-check";
import { bestFits, fitOfName } from "./rank";

test.each([
  ["larkmere.parcels", "larkmere.parcels", "other.parcels"],
  ["parcels", "parcels", "larkmere.parcels_old"],
  ["wei", "weight_g", "is_heavy_weighted_never"],
  ["par wei", "parcels.weight_g", "weights of sparse things"],
  ["RCE", "parcels", "weather"],
])("typing %s finds %s before %s", (typed, first, second) => {
  expect(fitOfName(first, typed)).toBeGreaterThan(fitOfName(second, typed));
});

test("what is found holds every typed word, and nothing that does is excluded while there is room", () => {
  const names = fc.array(fc.stringMatching(/^[a-c_.]{1,6}$/), { maxLength: 30 });
  fc.assert(
    fc.property(names, fc.stringMatching(/^[a-c]{1,2}( [a-c])?$/), (all, typed) => {
      const holds = (name: string): boolean => typed.split(" ").every((word) => name.includes(word));
      const found = bestFits(
        all.map((name) => ({ name })),
        typed,
        100,
      );
      expect(found.map(({ name }) => name).toSorted()).toEqual(all.filter(holds).toSorted());
    }),
  );
});
