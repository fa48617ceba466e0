import { readFileSync } from "node:fs";
import { unwrap } from "../../problem";
import { valueIn } from "./parts";
import { giveRole, giveTarget } from "./roles";

const demo = readFileSync("demo/uncollected-72h.yaml", "utf8");
const roles = (text: string): unknown => valueIn(text, ["roles"]);

test("a column becomes part of the key, the time, the group or the weight, and is no longer excluded", () => {
  const keyed = unwrap(giveRole(demo, "site_id", "key"));
  expect(roles(keyed)).toMatchObject({ key: ["parcel_id", "site_id"], group: "site_id" });
  expect(unwrap(giveRole(keyed, "site_id", "key"))).toBe(keyed);
  const weighted = unwrap(giveRole(demo, "reminders_sent", "weight"));
  expect(roles(weighted)).toMatchObject({ weight: "reminders_sent" });
  expect(JSON.stringify(valueIn(weighted, ["roles", "exclude"]))).not.toContain("reminders_sent");
  // Other lines stay as they are.
  expect(weighted.split("\n").filter((line) => !demo.includes(line)).length).toBeLessThan(6);
});

test("a feature has no other role; the last column of the key and the answer stay what they are", () => {
  const freed = unwrap(giveRole(demo, "site_id", "feature"));
  expect(roles(freed)).not.toHaveProperty("group");
  const left = unwrap(giveRole(unwrap(giveRole(demo, "site_id", "key")), "site_id", "excluded"));
  expect(roles(left)).toMatchObject({ key: ["parcel_id"] });
  expect(JSON.stringify(roles(left))).toContain('{"column":"site_id","because":"excluded for now"}');
  expect(giveRole(demo, "parcel_id", "feature")).toMatchObject({ ok: false });
  expect(giveRole(demo, "uncollected", "excluded")).toMatchObject({ ok: false });
});

test("another column becomes the answer, and has no other role", () => {
  const changed = unwrap(giveTarget(demo, { column: "site_id", kind: "classes" }));
  expect(roles(changed)).toMatchObject({ target: { column: "site_id", kind: "classes" } });
  expect(roles(changed)).not.toHaveProperty("group");
  const binary = unwrap(giveTarget(demo, { column: "carrier", kind: "binary", positive: "barge" }));
  expect(roles(binary)).toMatchObject({ target: { column: "carrier", kind: "binary", positive: "barge" } });
});
