import { someOf } from "@/core/format/some-names";
import type { CheckedPlan } from "@/core/plan/plan";
import { isNumber } from "@/core/value-type";
import { Problems } from "../basic/problems";
import { DivisionPanel } from "./division/division-panel";

/** Columns that are named in a sentence. */
const FEW_NAMES = 6;

/** Columns that are no features, those with the same reason together. */
function leftOutWords(roles: CheckedPlan["roles"]): string {
  const reasons = new Map<string, string[]>();
  for (const [name, { role, because = "" }] of roles)
    if (role === "excluded") reasons.set(because, [...(reasons.get(because) ?? []), `“${name}”`]);
  return [...reasons]
    .map(
      ([because, names]) =>
        `${someOf(names, FEW_NAMES)} ${names.length === 1 ? "is" : "are"} excluded: ${because.replace(/\.$/, "")}.`,
    )
    .join(" ");
}

/** Which rows a model is evaluated on, and what is known of its features. */
export function ValidationSection({
  pipeline,
  plan,
  version,
  tables,
}: {
  readonly pipeline: string;
  readonly plan: CheckedPlan;
  /** Number of the newest version of the file. */
  readonly version: number | undefined;
  readonly tables: readonly string[];
}) {
  const { file, main, features, roles, warnings } = plan;
  return (
    <section className="mt-6" aria-label="Validation">
      <h2 className="mb-2">Validation</h2>
      <DivisionPanel
        key={version}
        pipeline={pipeline}
        file={file}
        tables={tables}
        numberGroups={
          file.roles.group !== undefined && isNumber(main.output.get(file.roles.group)?.type ?? "other")
        }
      />
      <p className="mt-2 text-caption text-faded">
        {features.length} columns are features. The same rows are held out every time. Steps learn their
        values from the training rows only; within cross-validation, again for each fold.{" "}
        {leftOutWords(roles)}
      </p>
      <div className="mt-3">
        <Problems problems={warnings} />
      </div>
    </section>
  );
}
