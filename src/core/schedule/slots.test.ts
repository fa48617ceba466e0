import { dueSlots, nextSlots, slotsBetween } from "./slots";

const iso = (slots: readonly Date[]): readonly string[] => slots.map((slot) => slot.toISOString());

describe("times of a cron expression", () => {
  test("are local to the zone, also across the change of the clocks", () => {
    expect(iso(nextSlots("30 22 * * *", "Europe/Lisbon", new Date("2026-10-24T12:00:00Z"), 3))).toEqual([
      "2026-10-24T21:30:00.000Z",
      "2026-10-25T22:30:00.000Z",
      "2026-10-26T22:30:00.000Z",
    ]);
  });

  test("a time that the clocks skip comes once, and one that they repeat comes once", () => {
    expect(
      iso(
        slotsBetween(
          "30 1 * * *",
          "Europe/Lisbon",
          new Date("2026-03-28T12:00:00Z"),
          new Date("2026-03-30T12:00:00Z"),
        ),
      ),
    ).toHaveLength(2);
    expect(
      iso(
        slotsBetween(
          "30 1 * * *",
          "Europe/Lisbon",
          new Date("2026-10-24T12:00:00Z"),
          new Date("2026-10-26T12:00:00Z"),
        ),
      ),
    ).toHaveLength(2);
  });

  test("between two moments, the first is excluded and the last belongs to it", () => {
    expect(
      iso(
        slotsBetween("0 * * * *", "UTC", new Date("2026-06-30T10:00:00Z"), new Date("2026-06-30T12:00:00Z")),
      ),
    ).toEqual(["2026-06-30T11:00:00.000Z", "2026-06-30T12:00:00.000Z"]);
  });

  test("missed ones are skipped or one catch-up run, those in time always run", () => {
    const now = new Date("2026-06-30T12:03:00Z");
    const [early, late, just] = ["2026-06-29T12:00:00Z", "2026-06-30T06:00:00Z", "2026-06-30T12:00:00Z"].map(
      (text) => new Date(text),
    ) as [Date, Date, Date];
    expect(dueSlots([early, late], now, "skip")).toEqual([]);
    expect(dueSlots([early, late], now, "catch_up_once")).toEqual([late]);
    expect(dueSlots([early, late, just], now, "catch_up_once")).toEqual([just]);
    expect(dueSlots([], now, "catch_up_once")).toEqual([]);
  });

  test("what was due while the application was stopped is missed, however short the stop", () => {
    const [first, second, now] = ["12:00", "12:01", "12:03"].map(
      (time) => new Date(`2026-06-30T${time}:00Z`),
    ) as [Date, Date, Date];
    const started = new Date("2026-06-30T12:02:00Z");
    expect(dueSlots([first, second], now, "skip", started)).toEqual([]);
    expect(dueSlots([first, second], now, "catch_up_once", started)).toEqual([second]);
    expect(dueSlots([first, second, now], now, "skip", started)).toEqual([now]);
  });
});
