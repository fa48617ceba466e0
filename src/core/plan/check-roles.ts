import type { CheckedExpression } from "../expression/check";
import { binary, column, truth, type Expression } from "../expression/ast";
import { valuesOf } from "../expression/has-value";
import { formatNumber } from "../format/numbers";
import { someNames } from "../format/some-names";
import { suggestion } from "../nearest";
import type { PipelineFile } from "../pipeline/schema";
import { problem, warning, type Problem } from "../problem";
import type { ColumnSet } from "../steps/step";
import { isNumber, type ValueType } from "../value-type";
import { answerSides, type AnswerSides } from "./answer-sides";
import { answersGivenAway } from "./knowledge";
import type { CheckedStrand, ColumnRole, Feature } from "./plan";

/** What a column can be as a feature; none where its type cannot be one. */
function featureKind(type: ValueType): "number" | "category" | "sparse" | undefined {
  if (isNumber(type) || type === "boolean") return "number";
  if (type === "text") return "category";
  return type === "sparse" ? "sparse" : undefined;
}

/** Sorts the columns of the final rows into roles and features; everything doubtful is reported. */
export function checkRoles(
  file: PipelineFile,
  main: CheckedStrand,
  strands: readonly CheckedStrand[],
  report: (found: Problem) => void,
): { roles: ReadonlyMap<string, ColumnRole>; features: readonly Feature[] } {
  const { output } = main;
  const roles = new Map<string, ColumnRole>();
  const assign = (name: string, role: ColumnRole, path: readonly (string | number)[]): void => {
    if (!output.has(name)) {
      report(
        problem(
          "unknown_column",
          `The rows of "${main.name}" have no column "${name}" at the end of the strand.`,
          suggestion(name, output.keys(), "column"),
          { path },
        ),
      );
      return;
    }
    const earlier = roles.get(name);
    if (earlier && (role.role === "target" || earlier.role === "target")) {
      report(
        problem(
          "role_clash",
          `"${name}" is both ${earlier.role} and ${role.role}.`,
          "A target cannot have a second role.",
          { path },
        ),
      );
    }
    if (!earlier || earlier.role === "excluded") roles.set(name, role);
  };
  file.roles.key.forEach((name, index) => assign(name, { role: "key" }, ["roles", "key", index]));
  assign(file.roles.target.column, { role: "target" }, ["roles", "target", "column"]);
  if (file.roles.time !== undefined) assign(file.roles.time, { role: "time" }, ["roles", "time"]);
  if (file.roles.group !== undefined) assign(file.roles.group, { role: "group" }, ["roles", "group"]);
  if (file.roles.weight !== undefined) {
    assign(file.roles.weight, { role: "weight" }, ["roles", "weight"]);
    const type = output.get(file.roles.weight)?.type;
    if (type && !isNumber(type))
      report(
        problem(
          "type_clash",
          `"${file.roles.weight}" is ${type}, but a weight must be a number.`,
          "Derive a number from it.",
          { path: ["roles", "weight"] },
        ),
      );
  }
  file.roles.exclude.forEach((exclusion, index) =>
    assign(exclusion.column, { role: "excluded", because: exclusion.because }, [
      "roles",
      "exclude",
      index,
      "column",
    ]),
  );
  for (const [name, moment] of Object.entries(file.roles.known)) {
    if (moment === "after" && output.has(name) && !roles.has(name))
      roles.set(name, { role: "excluded", because: "known only after the prediction" });
  }
  const features: Feature[] = [];
  const unusable = new Map<ValueType, string[]>();
  for (const [name, state] of output) {
    if (roles.has(name)) continue;
    const kind = state.bundle ? "bundle" : featureKind(state.type);
    if (!kind) {
      roles.set(name, { role: "excluded", because: `${state.type} columns cannot be features` });
      unusable.set(state.type, [...(unusable.get(state.type) ?? []), name]);
      continue;
    }
    roles.set(name, { role: "feature" });
    features.push({ name, kind, type: state.type });
  }
  for (const [type, names] of unusable)
    report(
      warning(
        "not_a_feature",
        names.length === 1
          ? `"${names[0]!}" is ${type} and is excluded from the features.`
          : `${formatNumber(names.length)} columns are ${type} and are excluded from the features: ${someNames(names)}.`,
        names.length === 1
          ? "Derive a number from it, or list it under roles.exclude with the reason."
          : "Derive numbers from them, or list them under roles.exclude with the reason.",
        { path: ["roles"] },
      ),
    );
  for (const found of answersGivenAway(
    file,
    main,
    strands,
    features.map((feature) => feature.name),
  )) {
    const [origin, ...way] = found.path;
    report(
      warning(
        found.because === "known_after" ? "known_later" : "from_target_source",
        `The feature "${found.feature}" is derived from ${origin ?? ""}, ${found.because === "known_after" ? "which is known only after the prediction" : "which the target is also derived from"}${way.length > 1 ? ` (${found.path.join(" → ")})` : ""}.`,
        found.because === "known_after"
          ? "List it under roles.exclude, unless it is known in time."
          : "If it is known at the time of prediction, mark it before or at under roles.known; otherwise list the feature under roles.exclude.",
        { path: ["roles", "known"] },
      ),
    );
  }
  if (features.length === 0)
    report(
      problem(
        "no_features",
        "No features remain.",
        "Keep or derive at least one number or text column without another role.",
        { path: ["roles"] },
      ),
    );
  return { roles, features };
}

/** The target: for yes and no a condition, true for positive rows; else its column. NULL where the answer is missing. */
export function checkTarget(
  file: PipelineFile,
  output: ColumnSet,
  report: (found: Problem) => void,
): AnswerSides {
  const { target } = file.roles;
  const state = output.get(target.column);
  const path = ["roles", "target"];
  if (!state) return { positive: truth(true) };
  const own = target.kind !== "binary" || state.type === "boolean";
  if (own && target.negative !== undefined)
    report(
      problem(
        "no_sides",
        `"${target.column}" is ${target.kind === "binary" ? "yes/no" : `of kind ${target.kind}`}, so it takes no negative values.`,
        "Remove negative, or choose kind: binary for a column with other values.",
        { path: [...path, "negative"] },
      ),
    );
  if (target.kind !== "binary") {
    if (target.kind === "number" && !isNumber(state.type))
      report(
        problem(
          "type_clash",
          `"${target.column}" is ${state.type}, but the target is a number.`,
          "Convert it, or choose kind: classes.",
          { path: [...path, "column"] },
        ),
      );
    return { positive: column(target.column) };
  }
  if (state.type === "boolean") {
    const isNegated = target.positive !== undefined && !valuesOf(target.positive).includes(true);
    return { positive: isNegated ? binary(column(target.column), "=", truth(false)) : column(target.column) };
  }
  const sides = answerSides(target, state.type, report);
  if (sides) return sides;
  report(
    problem(
      "target_positive",
      `"${target.column}" is ${state.type}: specify the positive value.`,
      "Add positive: VALUE next to the column.",
      { path: [...path, "column"] },
    ),
  );
  return { positive: truth(true) };
}

/** A condition over the final rows. */
export function requireCondition(
  found: { readonly expression: Expression; readonly checked: CheckedExpression } | undefined,
  path: readonly (string | number)[],
  report: (found: Problem) => void,
): Expression {
  if (!found) return truth(true);
  if (found.checked.type !== "boolean")
    report(
      problem(
        "not_a_condition",
        `This gives ${found.checked.type}, but a condition is needed.`,
        "Compare it with a value.",
        { path },
      ),
    );
  return found.expression;
}
