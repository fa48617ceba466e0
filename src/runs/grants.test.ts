import { ProblemError } from "@/core/problem";
import { grantScript } from "./grants";

const WISH = {
  database: "river",
  reader: 'odd "role"',
  writer: "ravlen_writer",
  own: ["predictions", "scratch", "imported"],
  read: ["hr", "raw"],
  owners: ["loader"],
};

test("the script names what was asked for, quoted", () => {
  const script = grantScript(WISH);
  expect(script).toContain('GRANT USAGE ON SCHEMA "raw" TO "odd ""role""", "ravlen_writer";');
  expect(script).toContain('ALTER DEFAULT PRIVILEGES FOR ROLE "loader" IN SCHEMA "hr"');
  expect(grantScript({ ...WISH, database: "a\nb" })).toMatch(/^-- .* "a b"\.\n/);
});

test.each([
  ["", "A role, schema or database has no name."],
  ["r".repeat(64), `“${"r".repeat(64)}” is too long for a name: at most 63 bytes.`],
])("without a usable name there is no script, and it says what to enter", (reader, message) => {
  const asked = (): string => grantScript({ ...WISH, reader });
  expect(asked).toThrow(ProblemError);
  expect(asked).toThrow(message);
});
