import fc from "fast-check";
import { loadModule, parseSync } from "libpg-query";
import { commentText, quoteDouble, quoteIdentifier, quoteNumeric, quoteTable, quoteText } from "./quote";

interface Target {
  readonly ResTarget: {
    readonly name?: string;
    readonly val: {
      readonly A_Const?: { readonly sval?: { readonly sval?: string } };
      readonly ColumnRef?: { readonly fields: readonly { readonly String: { readonly sval: string } }[] };
    };
  };
}

/** What PostgreSQL's grammar makes of `SELECT text`: exactly one target of one statement, or the test fails. */
function onlyTarget(text: string): Target["ResTarget"] {
  const { stmts } = parseSync(`SELECT ${text}`) as {
    stmts: { stmt: { SelectStmt: { targetList: Target[] } } }[];
  };
  expect(stmts).toHaveLength(1);
  expect(stmts[0]!.stmt.SelectStmt.targetList).toHaveLength(1);
  return stmts[0]!.stmt.SelectStmt.targetList[0]!.ResTarget;
}

beforeAll(() => loadModule());

const anything = fc
  .oneof(
    fc.string({ unit: "grapheme" }),
    fc.constantFrom(
      "'; DROP TABLE x; --",
      "\\'; --",
      "a'b\\'c",
      "$$x$$",
      "E'\\047",
      "/* */",
      '"quoted"',
      "új név",
      "名前",
    ),
  )
  .filter((text) => !text.includes("\0"));

test("whatever a text holds, it comes back as one literal with that text", () => {
  fc.assert(
    fc.property(anything, (value) => {
      expect(onlyTarget(quoteText(value)).val.A_Const?.sval?.sval ?? "").toBe(value);
    }),
    { numRuns: 400 },
  );
});

test("whatever a name holds, it comes back as one identifier of that name", () => {
  fc.assert(
    fc.property(
      anything.filter((text) => text.length > 0 && new TextEncoder().encode(text).length <= 63),
      (name) => {
        expect(
          onlyTarget(quoteIdentifier(name)).val.ColumnRef?.fields.map((field) => field.String.sval),
        ).toEqual([name]);
      },
    ),
    { numRuns: 400 },
  );
});

test("names that no object can have are refused, not cut", () => {
  expect(() => quoteIdentifier("")).toThrow(RangeError);
  expect(() => quoteIdentifier("a\0b")).toThrow(RangeError);
  expect(() => quoteTable({ schema: "s", table: "é".repeat(32) })).toThrow(RangeError);
});

test("a number prints so that it reads back to the same bits", () => {
  fc.assert(
    fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (value) => {
      const digits = quoteDouble(value).replace("::double precision", "").replace(/[()]/g, "");
      expect(Number(digits)).toBe(value === 0 ? 0 : value);
    }),
  );
  expect(quoteDouble(Number.NaN)).toBe("'NaN'::double precision");
  expect(quoteDouble(-Infinity)).toBe("'-Infinity'::double precision");
  expect(() => quoteNumeric("1; DROP")).toThrow(RangeError);
});

test("a comment stays one comment", () => {
  expect(commentText("a */ DROP\n-- b")).toBe("a * / DROP -- b");
});
