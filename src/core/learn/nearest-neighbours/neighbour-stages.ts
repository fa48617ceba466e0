import { hidden } from "../../names/hidden";
import { binary, call, cast, column, double, integer, type Expression } from "../../expression/ast";
import type { NamedExpression } from "../../relation/relation";
import { NEAR, type NeighbourModel } from "./neighbours";

/** Nearest neighbours as SQL: scaled values, then one search among the kept rows, which are constants of the statement. */
export function neighbourStages(
  model: NeighbourModel,
  number: (name: string) => Expression,
): { readonly stages: readonly (readonly NamedExpression[])[]; readonly outputs: readonly Expression[] } {
  const scaled = model.numbers.map(({ column: name, centre, spread }, index): NamedExpression => ({
    name: hidden(`scaled_${index}`),
    expression: call(
      "coalesce",
      binary(binary(number(name), "-", double(centre)), "/", double(spread)),
      double(0),
    ),
  }));
  const search: Expression = {
    kind: "nearest",
    numbers: model.numbers.map((number, index) => ({
      value: column(scaled[index]!.name),
      among: number.values,
    })),
    categories: model.categories.map((category) => ({
      value: cast(column(category.column), "text"),
      among: category.values,
    })),
    answers: model.answers,
    k: model.k,
    classes: model.classes,
    near: model.weighting === "distance" ? NEAR : undefined,
  };
  const votes = hidden("votes");
  const share = (index: number): Expression => call("array_element", column(votes), integer(index));
  // A mean of a number stands alone; of yes and no, the share of yes is the second.
  const single = model.classes === 0 ? share(1) : share(2);
  const outputs =
    model.classes === 0 || model.binary
      ? [single]
      : Array.from({ length: model.classes }, (_, code) => share(code + 1));
  return { stages: [scaled, [{ name: votes, expression: search }]], outputs };
}
