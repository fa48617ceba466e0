"use client";
import { Fold } from "../basic/fold";
import { ALGORITHMS, type Algorithm } from "@/core/learn/algorithms";
import { settingProperties, type SettingProperty } from "@/core/setting-properties";
import { SchemaFields } from "../basic/schema-fields";

/** Settings that come after those of the learner itself. */
const LAST = ["validation_share", "stop_after", "missing", "balance"];

/** The settings of a learner with what each means, as its schema tells. */
export function settingsOf(algorithm: Algorithm): readonly (readonly [string, SettingProperty])[] {
  const rank = (name: string): number => LAST.indexOf(name);
  return [...settingProperties(ALGORITHMS[algorithm].settings)].sort(
    ([left], [right]) => rank(left) - rank(right),
  );
}

/** Settings most people never touch: folded away. */
const RARE = new Set(["most_levels", "tolerance", "most_passes", "sample_rows", "reference", "bins", "seed"]);

/** Settings in the order in which people want them: those that are seldom touched last. */
export const byUse = <Named extends { readonly setting: string }>(
  settings: readonly Named[],
): readonly Named[] => [
  ...settings.filter(({ setting }) => !RARE.has(setting)),
  ...settings.filter(({ setting }) => RARE.has(setting)),
];

interface Props {
  readonly algorithm: Algorithm;
  readonly values: Readonly<Record<string, unknown>>;
  readonly onChange: (name: string, value: unknown) => void;
}

/** One field for each setting of a learner, with its default and its meaning. */
export function SettingFields({ algorithm, values, onChange }: Props) {
  const all = settingsOf(algorithm);
  const rare = all.filter(([name]) => RARE.has(name));
  return (
    <div className="space-y-2.5">
      <SchemaFields
        properties={all.filter(([name]) => !RARE.has(name))}
        values={values}
        onChange={onChange}
      />
      {rare.length > 0 && (
        <Fold summary="Advanced settings" summaryClassName="text-caption text-faded">
          <div className="mt-2">
            <SchemaFields properties={rare} values={values} onChange={onChange} />
          </div>
        </Fold>
      )}
    </div>
  );
}
