import { fieldOf, handOn, typeInto, valueArrives } from "./typed-field";

const asTyped = (text: string): string => text;

test("what is typed is handed on once, cleaned, and stays as it was typed when it comes back", () => {
  const typed = typeInto(fieldOf("0.5"), "20 %");
  const { field, send } = handOn(typed, () => "0.2");
  expect(send).toBe("0.2");
  expect(valueArrives(field, "0.2").text).toBe("20 %");
  expect(handOn(field, asTyped).send).toBeUndefined();
});

test("a value from elsewhere replaces what stands there, and the text before it is not handed on again", () => {
  const untouched = valueArrives(fieldOf("keep a, b"), "keep a, b and 2 more");
  expect(untouched.text).toBe("keep a, b and 2 more");
  expect(handOn(untouched, asTyped).send).toBeUndefined();
  const undone = valueArrives(typeInto(fieldOf("first"), "second"), "earlier");
  expect(undone.text).toBe("earlier");
  expect(handOn(undone, asTyped).send).toBeUndefined();
});

test("a text typed back to its value is not handed on", () => {
  const back = typeInto(typeInto(fieldOf("median"), "media"), "median");
  expect(handOn(back, asTyped).send).toBeUndefined();
});
