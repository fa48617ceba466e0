import fc from "fast-check";
import { findOptions, labelOf, labelledOptions } from "./options";

const option = fc.record({ value: fc.string(), label: fc.string(), group: fc.string() });

describe("options of a select", () => {
  it("finds every option by its own label in capitals, and all without words", () => {
    fc.assert(
      fc.property(fc.array(option, { minLength: 1 }), fc.nat(), (options, at) => {
        const wanted = options[at % options.length]!;
        // Letters such as ß change when they are written in capitals and back.
        fc.pre(labelOf(wanted).toUpperCase().toLowerCase() === labelOf(wanted).toLowerCase());
        expect(findOptions(options, labelOf(wanted).toUpperCase())).toContain(wanted);
        expect(findOptions(options, " ")).toEqual(options);
      }),
    );
  });

  it("needs every typed word, in any order", () => {
    const options = labelledOptions({ log_loss: "log loss", auc: "AUC", rmse: "root mean squared error" });
    expect(findOptions(options, "error mean").map(({ value }) => value)).toEqual(["rmse"]);
    expect(findOptions(options, "mean loss")).toEqual([]);
  });
});
