import { STEP_KINDS } from "@/core/steps";
import { settingsOf } from "@/core/steps/reference";
import { FORMS } from "./forms";
import type { Input } from "./field";

test.each(STEP_KINDS.map((stepKind) => [stepKind.kind, stepKind] as const))(
  "the form of %s asks for every setting, and only for those",
  (kind, definition) => {
    expect((FORMS[kind] ?? []).map((field) => field.name).sort()).toEqual(
      settingsOf(definition)
        .map((setting) => setting.name)
        .sort(),
    );
  },
);

test("no form is for a kind that does not exist", () => {
  expect(Object.keys(FORMS).sort()).toEqual(STEP_KINDS.map((stepKind) => stepKind.kind).sort());
});

/** Everything a form offers to choose from, with the name of the setting. */
const choicesOf = (name: string, input: Input): readonly (readonly [string, unknown])[] =>
  input.as === "choice" || input.as === "choices"
    ? input.choices.map(([value]) => [name, input.as === "choices" ? [value] : value] as const)
    : [];

test.each(STEP_KINDS.map((stepKind) => [stepKind.kind, stepKind] as const))(
  "every choice in the form of %s is one that the step understands",
  (kind, definition) => {
    for (const [name, value] of (FORMS[kind] ?? []).flatMap((field) => choicesOf(field.name, field))) {
      const setting = definition.settings.shape[name];
      expect([
        name,
        value,
        setting &&
          (setting as unknown as { safeParse: (raw: unknown) => { success: boolean } }).safeParse(value)
            .success,
      ]).toEqual([name, value, true]);
    }
  },
);
