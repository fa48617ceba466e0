"use client";
import { TypedText } from "../../basic/typed-text";
import { writeNumberTyped } from "../../basic/typed-setting";
import { Choices, Pick, WordsPick, YesNo } from "./controls";
import type { SettingOf } from "./setting-props";
import { asConstant, asNumber, list, orAbsent, words } from "./setting-values";

export function TextSetting({ input, label, value, onChange, initial }: SettingOf<"text">) {
  return (
    <TypedText
      label={label}
      usual={words(initial)}
      example={input.example}
      value={words(value)}
      onChange={(text) => onChange(text === "" ? undefined : text)}
    />
  );
}

export function NumberSetting({ label, value, onChange, initial }: SettingOf<"number">) {
  return (
    <TypedText
      numeric
      label={label}
      usual={words(initial)}
      value={words(value)}
      onChange={(text) => onChange(text.trim() === "" ? undefined : asNumber(text))}
    />
  );
}

export function ConstantSetting({ label, value, onChange, initial }: SettingOf<"constant">) {
  return (
    <TypedText
      label={label}
      usual={words(initial)}
      value={words(value)}
      onChange={(text) => onChange(asConstant(text))}
    />
  );
}

export function YesSetting({ label, value, onChange, initial }: SettingOf<"yes">) {
  return (
    <YesNo
      label={label}
      value={(value ?? initial) === true}
      onChange={(yes) => onChange(yes === (initial ?? false) ? undefined : yes)}
    />
  );
}

export function ChoiceSetting({ input, label, value, onChange, initial }: SettingOf<"choice">) {
  return (
    <Pick
      label={label}
      value={words(value ?? initial)}
      choices={input.choices.map(([choice, name]) => [String(choice), name])}
      onChange={(choice) => onChange(choice === words(initial) ? undefined : choice)}
    />
  );
}

export function ChoicesSetting({ input, label, value, onChange }: SettingOf<"choices">) {
  return (
    <Choices
      label={label}
      values={Array.isArray(value) ? value : []}
      choices={input.choices}
      onChange={onChange}
    />
  );
}

export function WordsSetting({ label, value, onChange }: SettingOf<"words">) {
  return <WordsPick label={label} values={list(value)} onChange={(all) => onChange(orAbsent(all))} />;
}

export function NumbersSetting({ label, value, onChange, initial }: SettingOf<"numbers">) {
  return (
    <WordsPick
      label={label}
      values={list(value ?? initial)}
      onChange={(all) => onChange(orAbsent(all.map((text) => asNumber(writeNumberTyped(text)))))}
    />
  );
}
