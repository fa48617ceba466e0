import { nameInWords, settingText } from "@/core/format/setting-text";
import { differingSettings, type Side } from "./side";
import { Sheet } from "../basic/sheet";

/** Settings in which two trials differ. */
export function SettingsTable({ first, second }: { readonly first: Side; readonly second: Side }) {
  const names = differingSettings(first, second);
  if (names.length === 0) return null;
  return (
    <Sheet className="max-w-3xl">
      <thead>
        <tr>
          <th>Setting</th>
          <th>version {first.number}</th>
          <th>version {second.number}</th>
        </tr>
      </thead>
      <tbody>
        {names.map((name) => (
          <tr key={name}>
            <td>{nameInWords(name)}</td>
            <td className="figure">{settingText(first.settings[name])}</td>
            <td className="figure">{settingText(second.settings[name])}</td>
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
