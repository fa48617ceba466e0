import fc from "fast-check";
import Papa from "papaparse";
import { doubleHolds } from "../format/digits";
import { changeColumn, troubleWithTarget } from "./change-choices";
import { valueCounts } from "./value-counts";
import { ColumnEvidence } from "./evidence";
import { converterOf, copyField } from "./convert-value";
import { CsvReader } from "./csv-reader";
import type { Choices, ColumnLook, TextLook } from "./look";
import { columnNames, proposeColumns } from "./propose";
import { lookAtText } from "./text-look";
import { valueNotes } from "./value-notes";

const look: TextLook = { encoding: "utf-8", delimiter: ",", quote: '"', header: true };

/** Reads a text in pieces of a length. */
function readAll(text: string, size: number, wanted = look) {
  const reader = new CsvReader(wanted);
  const reads = [];
  for (let at = 0; at < text.length; at += size) reads.push(reader.push(text.slice(at, at + size)));
  reads.push(reader.end());
  return {
    heading: reader.heading,
    rows: reads.flatMap((name) => name.rows),
    broken: reads.flatMap((name) => name.broken),
  };
}

function proposed(header: string, values: readonly string[]) {
  const evidence = new ColumnEvidence();
  values.forEach((value) => evidence.add(value));
  const { columns, findings, values: how, key } = proposeColumns([{ source: header, evidence }]);
  return { ...columns[0]!, ...findings[0]!, decimal: how.decimal, markers: how.missing, key };
}
const many = (of: readonly string[], times = 200): string[] =>
  Array.from({ length: times }, (_, index) => of[index % of.length]!);

test("missing and different values are those of the table that is made, whichever markers are chosen", () => {
  const cell = fc.constantFrom("", "NA", "N/A", "null", "-", "oak", "elm", "7", "8.5");
  const marker = fc.constantFrom("", "NA", "N/A", "null", "-");
  fc.assert(
    fc.property(fc.array(cell, { minLength: 1 }), fc.uniqueArray(marker), (values, others) => {
      const evidence = new ColumnEvidence();
      values.forEach((value) => evidence.add(value));
      const { findings, columns, key, values: how } = proposeColumns([{ source: "a", evidence }]);
      const chosen = [...new Set(["", ...others])].filter(
        (text) => text === "" || evidence.markers.has(text),
      );
      const there = values.filter((value) => !chosen.includes(value));
      expect(
        valueCounts({ choices: { columns: [...columns], key: [...key], values: how } }, findings[0]!, chosen),
      ).toEqual({
        missing: values.length - there.length,
        distinct: new Set(there).size,
      });
    }),
  );
});

test("whatever was written is read again, in whatever pieces it comes", () => {
  const value = fc.string({ unit: fc.constantFrom("a", "ü", ",", '"', "\n", " ", ";", "\\", "'") });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(value, value, value), { minLength: 1, maxLength: 8 }),
      fc.integer({ min: 1, max: 40 }),
      (rows, size) => {
        const text = Papa.unparse([["h1", "h2", "h3"], ...rows], { quotes: true, newline: "\n" });
        const { rows: found, broken } = readAll(text, size);
        expect(broken).toEqual([]);
        expect(found.map((file) => file.values)).toEqual(rows);
      },
    ),
  );
});

test("a stray quote costs its own line, and the lines after it are read", () => {
  const text = 'a,b\n1,x\n2,"oops\n3,y\n4,"two\nlines"\n5,z\n6\n7,q,r\na,b\n8,w"v"u\n9,last "open';
  for (const size of [1, 7, 1000]) {
    const { rows, broken } = readAll(text, size);
    expect(rows.map((row) => [row.line, ...row.values])).toEqual([
      [2, "1", "x"],
      [4, "3", "y"],
      [5, "4", "two\nlines"],
      [7, "5", "z"],
      [11, "8", 'w"v"u'],
    ]);
    expect(broken.map((misfit) => [misfit.line, misfit.reason])).toEqual([
      [3, "a quote is not closed"],
      [8, "1 value where 2 are expected"],
      [9, "3 values where 2 are expected"],
      [10, "the header row repeated"],
      [12, "a quote is not closed"],
    ]);
  }
});

test.each([
  ["a,b\n1,2\n", { delimiter: ",", quote: '"', header: true }],
  ["a;b;c\n1,5;2;x\n2,5;3;y\n", { delimiter: ";", quote: '"', header: true }],
  ["1\t2\n3\t4\n", { delimiter: "\t", quote: '"', header: false }],
  ["name|when\nx|2026-01-02\n", { delimiter: "|", quote: '"', header: true }],
  ["a,b\n'x, y',1\n'z',2\n", { delimiter: ",", quote: "'", header: true }],
  ["just one column\nx\ny\n", { delimiter: ",", quote: '"', header: true }],
  ["a\rb\r", { delimiter: ",", quote: '"', header: true }],
])("the look of %j", (text, expected) => expect(lookAtText(text)).toEqual(expected));

test.each([
  ["id", many(["00123", "00456"]), "text"],
  ["n", many(["1", "2", "300000"]), "integer"],
  ["n", many(["1", "3000000000"]), "bigint"],
  ["n", many(["12345678901234567890123"]), "text"],
  ["x", many(["1.5", "2", "-3e5"]), "double precision"],
  ["price", many(["1.50", "2.75", "3"]), "numeric"],
  ["paid", many(["Yes", "no"]), "boolean"],
  ["paid", many(["ja", "nein", ""]), "boolean"],
  ["is_open", many(["0", "1"]), "boolean"],
  ["n", many(["0", "1"]), "smallint"],
  ["site_type", many(["1", "4", "7"]), "text"],
  ["when", many(["2026-01-31", "2026-02-01"]), "date"],
  ["when", many(["31.01.2026", "01.02.2026"]), "date"],
  ["when", many(["01/31/2026", "02/01/2026"]), "date"],
  ["when", many(["2026-01-31T10:00:00", "2026-02-01 11:30"]), "timestamp"],
  ["when", many(["2026-01-31 10:00:00+02"]), "timestamptz"],
  ["t", many(["10:30", "23:59:59"]), "time"],
  ["x", many(["abc", "1"]), "text"],
  ["x", many(["1.5", "NA", "2.5"]), "double precision"],
  ["x", [...many(["17"], 500), "oops"], "integer"],
  ["empty", many([""]), "text"],
  ["x", many(["2026-02-30"]), "text"],
])("a column %s is proposed from all its values: %#", (name, values, type) =>
  expect(proposed(name, values).type).toBe(type),
);

test("the proposal says what a person should know", () => {
  expect(proposed("when", many(["31.01.2026", "01.02.2026"])).dateOrder).toBe("dmy");
  expect(proposed("when", many(["01.02.2026", "03.04.2026"])).hints[0]).toContain("is ambiguous");
  expect(proposed("x", [...many(["17"], 500), "oops"]).misfits).toBe(1);
  expect(proposed("x", many(["1.5", "NA", "2.5"])).missing).toBe(67);
  expect(proposed("country", many(["NA", "DE", "FR"])).missing).toBe(0);
  expect(
    proposed(
      "parcel_id",
      Array.from({ length: 300 }, (_, index) => String(index * 3)),
    ),
  ).toMatchObject({ key: ["parcel_id"], distinct: 300 });
  const comma = ["1,5", "2,5", "1.234,5"];
  expect(proposed("x", many(comma))).toMatchObject({ decimal: ",", type: "double precision", misfits: 0 });
});

const convert = (
  type: ColumnLook["type"],
  value: string,
  more: Partial<ColumnLook> = {},
  decimal: "." | "," = ".",
) => converterOf({ place: 0, name: "x", type, take: true, ...more }, { decimal, missing: ["", "NA"] })(value);
test.each([
  ["integer", "1,234", {}, ".", "1234"],
  ["integer", " 7 ", {}, ".", "7"],
  ["double precision", "1.234,5", {}, ",", "1234.5"],
  ["double precision", "1.5", {}, ".", "1.5"],
  ["boolean", "NEIN", {}, ".", "false"],
  ["date", "31.1.2026", { dateOrder: "dmy" }, ".", "2026-01-31"],
  ["date", "1/31/26", { dateOrder: "mdy" }, ".", "2026-01-31"],
  ["timestamp", "31.01.2026 9:05", { dateOrder: "dmy" }, ".", "2026-01-31 9:05"],
  ["text", " a ", {}, ".", " a "],
  ["text", "NA", {}, ".", null],
  ["jsonb", '{"a":1}', {}, ".", '{"a":1}'],
] as const)("as %s, %j becomes what COPY reads", (type, value, more, decimal, expected) =>
  expect(convert(type, value, more, decimal)).toBe(expected),
);
test.each([
  ["integer", "1.5"],
  ["integer", "3000000000"],
  ["smallint", "40000"],
  ["bigint", "99999999999999999999"],
  ["date", "2026-02-30"],
  ["boolean", "maybe"],
  ["time", "25:00"],
  ["jsonb", "{"],
  ["text", "a\0b"],
  ["double precision", "1e999"],
] as const)("as %s, %j is a misfit with a reason", (type, value) => {
  expect(convert(type, value)).toMatchObject({ misfit: expect.stringMatching(/\w/) as string });
});

test("names of columns are plain, different, and never empty", () => {
  expect(columnNames(["Größe (mm)", "Größe/mm", "", "2nd", "a b"])).toEqual([
    "große_mm",
    "große_mm_2",
    "column_3",
    "c_2nd",
    "a_b",
  ]);
  expect(new Set(columnNames(Array.from({ length: 2000 }, () => "x".repeat(80)))).size).toBe(2000);
});

test("a field of COPY holds no delimiter of its own", () => {
  expect(copyField("a\tb\\c\nd\r")).toBe("a\\tb\\\\c\\nd\\r");
  expect(copyField(null)).toBe("\\N");
});

describe("numbers that a double does not hold", () => {
  test("decimals of many digits are numeric, and keep every digit; those that a double holds stay doubles", () => {
    const exact = proposed("rate", many(["100000000000000000000.0017", "100000000000000000000.0018"]));
    expect(exact).toMatchObject({ type: "numeric", misfits: 0 });
    expect(exact.hints.join()).toContain("read as numeric");
    const column = { place: 0, name: "rate", type: "numeric", take: true } as const;
    const convert = converterOf(column, { decimal: ".", missing: [""] });
    expect(convert("100000000000000000000.0017")).toBe("100000000000000000000.0017");
    expect(proposed("rate", many(["0.30000000000000004", "1.5"])).type).toBe("double precision");
    expect(proposed("rate", many(["0.1000000000000000055511151231257827", "1.5"])).type).toBe(
      "double precision",
    );
    expect(proposed("rate", many([`0.${"12".repeat(30)}`, "1.5"])).type).toBe("numeric");
  });

  test("whatever double is written out is held by a double", () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (value) => {
        expect(doubleHolds(String(value))).toBe(true);
        expect(doubleHolds(value.toString().replace(".", ","))).toBe(true);
      }),
    );
    expect(doubleHolds("-923670826924632.2")).toBe(true);
    // A digit more than the seventeen that tell all doubles apart.
    expect(doubleHolds("0.123456789012345678")).toBe(false);
    expect(doubleHolds("1,234,567,890,123,456,789.5")).toBe(false);
  });

  test("NaN is missing and Infinity stays, and both are counted", () => {
    const rows = ["1.5", "NaN", "2", "Infinity", "-inf", "7"];
    const evidence = new ColumnEvidence();
    many(rows, 300).forEach((value) => evidence.add(value));
    const { columns, findings, values } = proposeColumns([{ source: "load", evidence }]);
    expect(columns[0]!.type).toBe("double precision");
    expect(valueNotes({ findings }, { columns: [...columns], values })).toEqual([
      '"load": 50 values “NaN” are loaded as missing.',
      '"load": 100 values are infinite, and loaded as Infinity; give them another value in a step before training.',
    ]);
    const convert = converterOf(columns[0]!, values);
    expect(rows.map((value) => convert(value))).toEqual(["1.5", null, "2", "Infinity", "-inf", "7"]);
  });

  test("columns may be called nan and inf; a first row with such values is data", () => {
    expect(lookAtText("id,nan,inf\n1,2.5,3\n2,7.5,4\n").header).toBe(true);
    expect(lookAtText("a,nan,inf\nb,nan,4\nc,7,nan\n").header).toBe(false);
    expect(lookAtText("nan,inf\n1,2\n3,4\n").header).toBe(false);
  });
});

test("the key follows the names of its columns, and loses one that is not taken", () => {
  const columns = ["id", "day"].map((name, place) => ({ place, name, type: "text", take: true }));
  const choices = { columns, key: ["day", "id"] } as unknown as Choices;
  expect(changeColumn(choices, 0, { name: "number" }).key).toEqual(["day", "number"]);
  expect(changeColumn(choices, 1, { take: false }).key).toEqual(["id"]);
  expect(changeColumn(choices, 1, { type: "date" })).toMatchObject({
    key: ["day", "id"],
    columns: [{ name: "id" }, { name: "day", type: "date" }],
  });
});

test.each([
  ["new", "orders", /already/],
  ["new", "fresh", undefined],
  ["append", "fresh", /no table "fresh" yet/],
  ["replace", " orders ", undefined],
  ["append", " ", /Enter a table name/],
] as const)("loading as %s into %j says beforehand whether that can be", (mode, table, trouble) => {
  const said = troubleWithTarget({ mode, table }, ["orders"]);
  if (trouble) expect(said).toMatch(trouble);
  else expect(said).toBeUndefined();
});
