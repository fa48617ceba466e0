import fc from "fast-check";
import { readKey, writeKey } from "./key-text";

test("keys of any parts are read back as they were written, and different keys are written differently", () => {
  const part = fc.oneof(fc.string({ unit: "grapheme" }), fc.stringMatching(/^[~\\, a/]*$/));
  fc.assert(
    fc.property(fc.array(part, { minLength: 1, maxLength: 4 }), (parts) => {
      expect(readKey(writeKey(parts))).toEqual(parts);
    }),
  );
  expect(writeKey(["1234"])).toBe("1234");
  expect(writeKey(["a~b", "c"])).not.toBe(writeKey(["a", "b~c"]));
});
