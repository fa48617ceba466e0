import { readFileSync } from "node:fs";
import fc from "fast-check";
import { unwrap } from "../../problem";
import { deliverySchema, scheduleSchema } from "../operating-schema";
import { parsePipeline } from "../parse";
import { changePart } from "./parts";
import { toldDelivery, toldSchedule } from "./told";

const demo = readFileSync("demo/uncollected-72h.yaml", "utf8");
const share = fc.double({ min: 0, max: 1, noNaN: true });
const name = fc.stringMatching(/^[a-z]{1,8}$/);

const delivery = fc
  .record(
    {
      name,
      table: name.map((text) => `predictions.${text}`),
      mode: fc.constantFrom("append", "upsert", "replace"),
      threshold: share,
      reasons: fc.nat(20),
      columns: fc.array(name, { maxLength: 3 }),
      rows: fc.oneof(
        fc.constantFrom("all", "not_yet_predicted"),
        name.map((newer_by) => ({ newer_by })),
      ),
      routes: fc.array(fc.record({ when: fc.constant("probability > 0.5"), table: name }), { maxLength: 2 }),
      hand_over: fc.array(
        fc.oneof(
          name.map((folder) => ({ folder, format: "csv" })),
          fc.constant({ webhook: "http://127.0.0.1:1/x" }),
        ),
        { maxLength: 2 },
      ),
      contract: fc.record(
        {
          otherwise: fc.constantFrom("stop", "warn"),
          least_rows: fc.nat(9),
          most_unseen: share,
          most_worse: share,
        },
        { requiredKeys: [] },
      ),
    },
    { requiredKeys: ["name", "table"] },
  )
  .map((schedule) => deliverySchema.parse(schedule));

const schedule = fc
  .record(
    {
      name,
      run: fc.constantFrom("score", "train"),
      delivery: name,
      late_after: fc.integer({ min: 1, max: 500 }),
      at_once: fc.integer({ min: 1, max: 50 }),
      quiet_for: fc.integer({ min: 0, max: 1440 }),
      after_backfill: fc.boolean(),
      missed: fc.constantFrom("skip", "catch_up_once"),
      wait: fc.record({
        for: fc.array(fc.record({ table: name, column: name, within: fc.nat(90) }), {
          minLength: 1,
          maxLength: 2,
        }),
        until: fc.integer({ min: 1, max: 90 }),
      }),
    },
    { requiredKeys: ["name", "run"] },
  )
  .chain((schedule) =>
    fc.constantFrom(
      { ...schedule, cron: "5 4 * * *", zone: "Europe/Lisbon" },
      { ...schedule, cron: "5 4 * * *", zone: "UTC" },
      { ...schedule, after: "other" },
      { ...schedule, arrival: "a.b" },
    ),
  )
  .map((schedule) => scheduleSchema.parse(schedule));

test("what a form writes into the file means what the form showed, without a word too many", () => {
  fc.assert(
    fc.property(delivery, (wanted) => {
      const told = toldDelivery(wanted);
      expect(deliverySchema.parse(told)).toEqual(wanted);
      expect(Object.keys(told).length).toBeLessThanOrEqual(Object.keys(wanted).length);
    }),
    { numRuns: 200 },
  );
  fc.assert(
    fc.property(schedule, (wanted) => expect(scheduleSchema.parse(toldSchedule(wanted))).toEqual(wanted)),
    { numRuns: 200 },
  );
  expect(toldDelivery(deliverySchema.parse({ name: "desk", table: "predictions.desk" }))).toEqual({
    name: "desk",
    table: "predictions.desk",
    mode: "upsert",
  });
});

test("an entry goes into the file's list, changed or new, and the others stay as they are; the last one takes its list along", () => {
  fc.assert(
    fc.property(delivery, fc.boolean(), (wanted, fresh) => {
      const text = unwrap(changePart(demo, ["delivery", fresh ? 1 : 0], toldDelivery(wanted)));
      const { file } = unwrap(parsePipeline(text));
      expect(file.delivery).toEqual(
        fresh ? [unwrap(parsePipeline(demo)).file.delivery[0], wanted] : [wanted],
      );
      expect({ ...file, delivery: [] }).toEqual({ ...unwrap(parsePipeline(demo)).file, delivery: [] });
    }),
    { numRuns: 40 },
  );
  const without = unwrap(
    changePart(unwrap(changePart(demo, ["schedules", 1], undefined)), ["schedules", 0], undefined),
  );
  expect(without).not.toContain("schedules");
  const again = unwrap(
    changePart(
      without,
      ["schedules", 0],
      toldSchedule(scheduleSchema.parse({ name: "daily", run: "train", cron: "0 3 * * *" })),
    ),
  );
  expect(again).toMatch(
    /auc\n\nschedules:\n {2}- \{name: daily, run: train, cron: 0 3 \* \* \*, zone: UTC\}\n$/,
  );
  expect(unwrap(parsePipeline(again)).file.schedules).toMatchObject([
    { name: "daily", run: "train", cron: "0 3 * * *", zone: "UTC" },
  ]);
});
