import { readFileSync } from "node:fs";
import fc from "fast-check";
import { parse } from "yaml";
import { unwrap } from "../../problem";
import { addStrand, changePart, readPasted } from "./parts";
import { newPipelineText } from "./new-pipeline";
import { parsePipeline } from "../parse";
import { changeStep, duplicateStep, insertStep, moveStep, removeStep, stepText } from "./steps";

const demo = readFileSync("demo/uncollected-72h.yaml", "utf8");
const MAIN = 1;
type Raw = {
  strands: { name: string; steps: Record<string, unknown>[] }[];
  roles: { known?: Record<string, string> };
};
const read = (text: string): Raw => parse(text) as Raw;
const steps = (text: string, strand = MAIN): Record<string, unknown>[] => read(text).strands[strand]!.steps;

const commented = `# what it is
ravlen: 1
name: example   # short
strands:
  # the rows
  - name: rows
    from: a.b
    steps:
      # people forget this one
      - do: filter
        where: x > 0   # never negative

      # second
      - do: derive
        name: two
        columns:
          # twice
          y: 2 * x
          z: x
  - name: other
    from: a.c
roles: {key: [id], target: {column: y, kind: binary}}
`;

test("a changed setting touches only the lines of its step", () => {
  const after = unwrap(
    changeStep(commented, { strand: 0, position: 0 }, [{ path: ["where"], value: "x > 1" }]),
  );
  expect(after).toBe(commented.replace("where: x > 0   # never", "where: x > 1 # never"));
  const deeper = unwrap(
    changeStep(commented, { strand: 0, position: 1 }, [
      { path: ["columns"], value: { y: "3 * x", z: "x", w: "x + 1" } },
    ]),
  );
  expect(deeper).toContain(
    "# people forget this one\n      - do: filter\n        where: x > 0   # never negative\n\n      # second",
  );
  expect(steps(deeper, 0)[1]!["columns"]).toEqual({ y: "3 * x", z: "x", w: "x + 1" });
});

test("a new step stands in the style of its neighbours, and a removed one takes its comments along", () => {
  const added = unwrap(
    insertStep(commented, { strand: 0, position: 1 }, { do: "drop", columns: ["q", "r"] }),
  );
  expect(added).toBe(
    commented.replace("# never negative\n", "# never negative\n      - do: drop\n        columns: [q, r]\n"),
  );
  const removed = unwrap(removeStep(commented, { strand: 0, position: 0 }));
  expect(removed).not.toContain("people forget");
  expect(removed).toContain("      # second\n      - do: derive");
});

test("a strand without steps gets its first, in both styles of writing", () => {
  const first = unwrap(
    insertStep(commented, { strand: 1, position: 0 }, { do: "limit", order: ["x"], rows: 5 }),
  );
  expect(steps(first, 1)).toEqual([{ do: "limit", order: ["x"], rows: 5 }]);
  expect(first).toContain("# people forget this one");
  const flow = commented.replace("from: a.c", "from: a.c\n    steps: [{do: drop, columns: [a]}]");
  expect(
    steps(unwrap(insertStep(flow, { strand: 1, position: 1 }, { do: "drop", columns: ["b"] })), 1),
  ).toHaveLength(2);
  expect(
    steps(unwrap(changeStep(flow, { strand: 1, position: 0 }, [{ path: ["columns"], value: ["c"] }])), 1),
  ).toEqual([{ do: "drop", columns: ["c"] }]);
  expect(read(unwrap(removeStep(flow, { strand: 1, position: 0 }))).strands[1]!.steps ?? []).toEqual([]);
});

test("any sequence of moves keeps every line, and the steps' order is as asked", () => {
  const many = steps(demo).length;
  const place = fc.nat({ max: many - 1 });
  fc.assert(
    fc.property(fc.array(fc.tuple(place, place), { maxLength: 6 }), (moves) => {
      let text = demo;
      const order = steps(demo).map((step) => JSON.stringify(step));
      for (const [from, to] of moves) {
        text = unwrap(moveStep(text, { strand: MAIN, position: from }, to));
        order.splice(to, 0, ...order.splice(from, 1));
      }
      expect(steps(text).map((step) => JSON.stringify(step))).toEqual(order);
      expect(text.split("\n").sort()).toEqual(demo.split("\n").sort());
    }),
    { numRuns: 40 },
  );
});

test("whatever is set is read back, and no other step changes", () => {
  const value = fc.oneof(
    fc.string(),
    fc.integer(),
    fc.boolean(),
    fc.array(fc.string(), { maxLength: 4 }),
    fc.dictionary(fc.stringMatching(/^[a-z]{1,6}$/), fc.string(), { maxKeys: 3 }),
  );
  fc.assert(
    fc.property(fc.nat({ max: steps(demo).length - 1 }), value, (position, wanted) => {
      const after = steps(
        unwrap(changeStep(demo, { strand: MAIN, position }, [{ path: ["note"], value: wanted }])),
      );
      expect(after[position]!["note"]).toEqual(JSON.parse(JSON.stringify(wanted)));
      expect(after.filter((_, index) => index !== position)).toEqual(
        steps(demo).filter((_, index) => index !== position),
      );
      expect({ ...after[position], note: null }).toEqual({ ...steps(demo)[position], note: null });
    }),
    { numRuns: 150 },
  );
});

test("a copy has a name of its own and pastes elsewhere", () => {
  const twice = unwrap(duplicateStep(commented, { strand: 0, position: 1 }));
  expect(steps(twice, 0).map((step) => step["name"])).toEqual([undefined, "two", "two again"]);
  const copied = unwrap(stepText(commented, { strand: 0, position: 1 }));
  expect(copied).toContain("# twice");
  expect(readPasted(copied)).toEqual([
    { kind: "step", step: { do: "derive", name: "two", columns: { y: "2 * x", z: "x" } } },
  ]);
  expect(readPasted("just words")).toEqual([]);
  expect(readPasted("name: s\nfrom: a.b")).toEqual([{ kind: "strand", strand: { name: "s", from: "a.b" } }]);
});

test("parts of the file are set one by one; a part that is not created yet comes at the end", () => {
  const marked = unwrap(changePart(demo, ["roles", "known", "collected_at"], "after"));
  expect(read(marked).roles.known!["collected_at"]).toBe("after");
  expect(marked.split("\n").filter((line) => !demo.includes(line)).length).toBeLessThanOrEqual(1);
  const brief = unwrap(changePart(commented, ["brief", "question"], "Why?"));
  expect(brief).toBe(`${commented}\nbrief:\n  question: Why?\n`);
  expect(unwrap(changePart(brief, ["brief", "question"], undefined))).not.toContain("Why?");
  const strands = unwrap(addStrand(commented, { name: "third", from: "a.d" }));
  expect(read(strands).strands.map((strand) => strand.name)).toEqual(["rows", "other", "third"]);
  expect(strands).toContain("    from: a.c\n\n  - name: third\n    from: a.d\nroles: {key: [id]");
});

test("a file that is no YAML, and a step that is not there, are refused", () => {
  expect(changePart("a: [", ["b"], 1)).toMatchObject({ ok: false });
  expect(changeStep(commented, { strand: 0, position: 9 }, [])).toMatchObject({
    ok: false,
    problems: [{ code: "unknown_step" }],
  });
  expect(moveStep(commented, { strand: 5, position: 0 }, 1)).toMatchObject({ ok: false });
});

test("a new pipeline's strand is named after its table, whatever stands in the quotes", () => {
  const text = newPipelineText({
    name: "odd",
    question: "",
    table: '"Ort A"."dotted.name"',
    key: ["id"],
    target: { column: "late" },
    kind: "binary",
  });
  const parsed = parsePipeline(text);
  expect(parsed.ok && parsed.value.file.strands[0]).toMatchObject({
    name: "dotted.name",
    from: '"Ort A"."dotted.name"',
  });
});

test("a file that is no good YAML cannot be changed; mended in the text, as the advice says, it can", () => {
  const broken = commented.replace("from: a.b", "from: [a.b");
  expect(changePart(broken, ["name"], "other")).toMatchObject({
    ok: false,
    problems: [{ code: "unreadable_file", hint: "Fix the text first." }],
  });
  expect(changePart(commented, ["name"], "other").ok).toBe(true);
});
