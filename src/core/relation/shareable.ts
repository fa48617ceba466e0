import type { Expression } from "../expression/ast";
import { walk } from "../expression/visit";
import { inputsOf, outputColumns, type Relation } from "./relation";

/** By which columns the first rows may be divided, so that a part of them gives the same rows as it does among all others. */
export type Division =
  /** Any: no row looks at another. */
  | { readonly kind: "any" }
  /** All rows with the same values in these columns must stay together. */
  | { readonly kind: "by"; readonly columns: ReadonlySet<string> }
  /** None. The name of the step that looks at all rows, where a step does. */
  | { readonly kind: "none"; readonly step?: string | undefined };

/** A relation that descends from the first rows: its columns that are columns of theirs, and how these may be divided. */
interface Descent {
  readonly origins: ReadonlyMap<string, string>;
  readonly division: Division;
}

const NONE: Division = { kind: "none" };

/** What two parts of a query allow together. */
function both(left: Division, right: Division): Division {
  if (left.kind === "none" || right.kind === "any") return left;
  if (right.kind === "none" || left.kind === "any") return right;
  const columns = new Set([...left.columns].filter((name) => right.columns.has(name)));
  return columns.size > 0 ? { kind: "by", columns } : NONE;
}

/** Rows with equal values in some columns are looked at together. */
function together(origins: ReadonlyMap<string, string>, names: readonly string[]): Division {
  const columns = new Set(names.flatMap((name) => origins.get(name) ?? []));
  return columns.size > 0 ? { kind: "by", columns } : NONE;
}

const plainName = (expression: Expression): string | undefined =>
  expression.kind === "column" && expression.relation === undefined ? expression.name : undefined;

/** What the windows of an expression allow. */
function windowsOf(expression: Expression, origins: ReadonlyMap<string, string>): Division {
  let found: Division = { kind: "any" };
  walk(expression, (node) => {
    if (node.kind === "window")
      found = both(
        found,
        together(
          origins,
          node.by.flatMap((node) => plainName(node) ?? []),
        ),
      );
  });
  return found;
}

const kept = (descent: Descent, names: readonly string[]): ReadonlyMap<string, string> =>
  new Map([...descent.origins].filter(([name]) => names.includes(name)));

/**
 * How the rows of a relation may be divided, so that a query over a part of them gives a part of the query's rows, each as it is among
 * all.
 * @param isFirst whether a node is the rows that are divided; it may occur in several places
 */
export function divisionOf(relation: Relation, isFirst: (node: Relation) => boolean): Division {
  return new Descents(isFirst).of(relation)?.division ?? { kind: "any" };
}

class Descents {
  private readonly known = new Map<Relation, Descent | undefined>();

  constructor(private readonly isFirst: (node: Relation) => boolean) {}

  /** @returns undefined where no first row is read */
  of(relation: Relation): Descent | undefined {
    if (this.known.has(relation)) return this.known.get(relation);
    const found = this.isFirst(relation)
      ? {
          origins: new Map(outputColumns(relation).map((name) => [name, name])),
          division: { kind: "any" } as const,
        }
      : this.beneath(relation);
    this.known.set(relation, found);
    return found;
  }

  private beneath(relation: Relation): Descent | undefined {
    if (relation.kind === "join") return this.joined(relation);
    if (relation.kind === "union") return this.united(relation);
    const [input] = inputsOf(relation);
    const from = input && this.of(input);
    if (!from) return undefined;
    const { origins, division } = from;
    switch (relation.kind) {
      case "table":
      case "given":
      case "constants":
      case "sample":
        return undefined;
      case "label":
        return {
          origins,
          division:
            division.kind === "none" && division.step === undefined
              ? { kind: "none", step: relation.name }
              : division,
        };
      case "fence":
      case "common":
        return from;
      case "filter":
        return { origins, division: both(division, windowsOf(relation.condition, origins)) };
      case "project":
        return {
          origins: new Map(
            relation.items.flatMap(({ name, expression }) => {
              const origin = origins.get(plainName(expression) ?? "");
              return origin === undefined ? [] : [[name, origin] as const];
            }),
          ),
          division: relation.items.reduce<Division>(
            (found, item) => both(found, windowsOf(item.expression, origins)),
            division,
          ),
        };
      case "limit":
        return { origins, division: both(division, NONE) };
      case "aggregate":
        return {
          origins: kept(from, relation.by),
          division: both(division, together(origins, relation.by)),
        };
      case "unpivot":
      case "words":
        return { origins: kept(from, relation.keep), division };
    }
  }

  /** A side without first rows stays whole, so what is joined to it finds all its matches. */
  private joined(relation: Extract<Relation, { kind: "join" }>): Descent | undefined {
    const [left, right] = [this.of(relation.left), this.of(relation.right)];
    if (!right) return left && { origins: left.origins, division: left.division };
    const taken = relation.take.flatMap(({ from, name }): (readonly [string, string])[] => {
      const origin = right.origins.get(from);
      return origin === undefined ? [] : [[name, origin]];
    });
    // Rows of the other table that find no match would stay, whatever the part.
    if (!left)
      return {
        origins: new Map(taken),
        division: relation.how === "inner" ? right.division : both(right.division, NONE),
      };
    const same = relation.on.flatMap((pair) => {
      const origin = left.origins.get(pair.left);
      return origin !== undefined && origin === right.origins.get(pair.right) ? [pair.left] : [];
    });
    return {
      origins: new Map([...left.origins, ...taken]),
      division: both(both(left.division, right.division), together(left.origins, same)),
    };
  }

  /** Rows of another table would stay whole. */
  private united(relation: Extract<Relation, { kind: "union" }>): Descent | undefined {
    const inputs = relation.inputs.map((input) => this.of(input));
    if (inputs.every((input) => input === undefined)) return undefined;
    const division = inputs.reduce<Division>((found, input) => both(found, input ? input.division : NONE), {
      kind: "any",
    });
    const [first] = inputs;
    return {
      origins: new Map(
        [...(first?.origins ?? [])].filter(([name, origin]) =>
          inputs.every((input) => input?.origins.get(name) === origin),
        ),
      ),
      division,
    };
  }
}
