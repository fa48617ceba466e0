import { Random } from "./random";
import { messageRows } from "./messages";
import { drawDelivery, drawWait, leftOdds, SIZES, SIZE_WEIGHT } from "./fate";
import { CARRIERS, DAY, dayOf, DEMO_NOW, DEMO_START, HOUR, isoDay, TOWNS, type World } from "./world";

/** A value of a generated row; null is a gap. */
export type Cell = string | number | boolean | Date | null;

export interface GeneratedTable {
  readonly name: string;
  readonly comment: string;
  /** Column definitions as SQL; written here, never by a user. */
  readonly columns: readonly (readonly [name: string, definition: string])[];
  readonly rows: (seed: number, scale: number, world: World) => Iterable<readonly Cell[]>;
}

/** Sizes above L were introduced three weeks before the demo's present. */
export const XL_SINCE = DEMO_NOW.getTime() - 21 * DAY;

export function misspelt(random: Random, name: string): string {
  return random.chance(0.97) ? name : random.pick([name.toUpperCase(), `${name} `, name.toLowerCase()]);
}

/** How much warmer than a day's mean it is at noon, and colder at midnight. Degrees. */
export function hourEffect(hour: number): number {
  if (hour === 12) return 3;
  return hour === 0 ? -3 : 0;
}

/** Days on which the scales sent next to no weights. */
export const SCALES_OUT = ["2026-05-12", "2026-05-13", "2026-06-03", "2026-06-04"] as const;
/** What was not sent on the latter two came some days later. */
export const SENT_LATER = ["2026-06-03", "2026-06-04"] as const;

function scaleWasOut(delivered: Date, index: number): boolean {
  return index % 10 > 0 && (SCALES_OUT as readonly string[]).includes(isoDay(delivered));
}

function* parcelRows(seed: number, scale: number, world: World): Iterable<readonly Cell[]> {
  const random = new Random(seed + 11);
  const count = Math.round(60_000 * scale);
  const span = DEMO_NOW.getTime() - DEMO_START.getTime() - DAY;
  for (let index = 0; index < count; index += 1) {
    // Parcels are numbered in the order of booking.
    const booked = DEMO_START.getTime() + DAY + (span * (index + random.uniform())) / count;
    const recipient = random.pick(world.recipients);
    const site = random.chance(0.8) ? world.sites[recipient.homeSite]! : random.pick(world.sites);
    const carrier = Math.floor(random.uniform() * CARRIERS.length);
    const size: string = booked > XL_SINCE && random.chance(0.12) ? "XL" : random.weighted(SIZES);
    const weight = Math.round(SIZE_WEIGHT[size]! * Math.exp(0.45 * random.normal()));
    const transit = (18 + random.exponential(20)) * HOUR;
    const delivered = drawDelivery(random, booked, transit);
    const lost = random.chance(0.004);
    const isDelivered = !lost && delivered.getTime() <= DEMO_NOW.getTime();
    const weather = world.weather.get(site.town)?.[Math.min(dayOf(delivered), dayOf(DEMO_NOW))] ?? {
      rain: 0,
      temperature: 10,
      wind: 0,
    };
    const { slow, wait } = drawWait(random, leftOdds({ recipient, site, size, carrier, delivered, weather }));
    const collected = new Date(delivered.getTime() + wait);
    const returned = slow && random.chance(0.09);
    const isCollected = isDelivered && !returned && collected.getTime() <= DEMO_NOW.getTime();
    const waited = Math.min(returned ? 10 * DAY : wait, DEMO_NOW.getTime() - delivered.getTime());
    // A reminder goes out after every full day and a half of waiting: known only afterwards, and nearly the answer.
    const reminders = isDelivered
      ? Math.max(0, Math.min(5, Math.floor(waited / (36 * HOUR)) + (random.chance(0.06) ? 1 : 0)))
      : 0;
    yield [
      7_000_001 + index,
      recipient.id,
      site.id,
      misspelt(random, CARRIERS[carrier]!),
      size,
      random.chance(0.045) || scaleWasOut(delivered, index) ? null : weight,
      new Date(booked),
      isDelivered ? delivered : null,
      isDelivered ? new Date(delivered.getTime() + 5 * DAY) : null,
      isCollected ? collected : null,
      reminders,
    ];
  }
}

function* weatherRows(seed: number, _scale: number, world: World): Iterable<readonly Cell[]> {
  const random = new Random(seed + 12);
  for (const [town, days] of world.weather) {
    for (const [day, weather] of days.entries()) {
      for (const hour of [0, 6, 12, 18]) {
        const at = new Date(DEMO_START.getTime() + day * DAY + hour * HOUR);
        if (at > DEMO_NOW || random.chance(0.01)) continue;
        const share = weather.rain * (0.15 + 0.2 * random.uniform());
        const row = [
          town,
          at,
          random.chance(0.03) ? null : Math.round(share * 10) / 10,
          Math.round((weather.temperature + hourEffect(hour)) * 10) / 10,
          Math.round(weather.wind * 10) / 10,
        ];
        yield row;
        // The station sends some readings twice.
        if (random.chance(0.004)) yield row;
      }
    }
  }
}

/** Days between the older series of latch tests and the demo's beginning. */
const OLD_SERIES_DAYS = 300;

/** Return parcels that people drop into lockers themselves: most at weekends, more at some sites. */
function* returnRows(seed: number, scale: number, world: World): Iterable<readonly Cell[]> {
  const random = new Random(seed + 15);
  const count = Math.round(9000 * scale);
  for (let index = 0; index < count; index += 1) {
    let at = new Date(
      DEMO_START.getTime() +
        ((DEMO_NOW.getTime() - DEMO_START.getTime()) * (index + random.uniform())) / count,
    );
    // Half of what would fall on a working day waits for Saturday.
    if (at.getUTCDay() >= 1 && at.getUTCDay() <= 5 && random.chance(0.5))
      at = new Date(at.getTime() + (6 - at.getUTCDay()) * DAY);
    if (at > DEMO_NOW) continue;
    const site = world.sites[Math.floor(world.sites.length * random.uniform() ** 1.4)]!;
    yield [
      300_001 + index,
      site.id,
      at,
      random.chance(0.06) ? null : random.weighted(SIZES),
      random.chance(0.2) ? null : Math.round(1 + random.exponential(9)),
    ];
  }
}

function* latchRows(seed: number, scale: number, world: World): Iterable<readonly Cell[]> {
  const random = new Random(seed + 14);
  let id = 1;
  for (const site of world.sites) {
    for (
      let compartment = 1;
      compartment <= Math.min(site.compartments, Math.round(12 * Math.max(1, scale)));
      compartment += 1
    ) {
      let cycles = Math.floor(random.uniform() * 8000);
      for (let month = 0; month < 14; month += 1) {
        cycles += Math.floor(150 + 200 * random.uniform());
        const wear = cycles / 12000 + 0.15 * random.normal();
        const at = new Date(DEMO_START.getTime() + (month * 30 + 10 + random.uniform() * 5) * DAY);
        yield [
          id,
          site.id,
          compartment,
          at,
          cycles,
          Math.round(100 * site.forceScale * (8 + 3 * wear + 0.4 * random.normal())) / 100,
          random.chance(0.05) ? null : Math.round(100 * Math.max(0, 0.4 + 0.5 * wear)) / 100,
        ];
        id += 1;
      }
    }
  }
}

/** The older series: fewer compartments, another device that measured no play, and a name for who held it. */
function* oldLatchRows(seed: number, _scale: number, world: World): Iterable<readonly Cell[]> {
  const random = new Random(seed + 16);
  let id = 900_001;
  for (const site of world.sites) {
    for (let compartment = 1; compartment <= 4; compartment += 1) {
      let cycles = Math.floor(random.uniform() * 3000);
      for (let month = 0; month < 8; month += 1) {
        cycles += Math.floor(150 + 200 * random.uniform());
        const at = new Date(
          DEMO_START.getTime() - OLD_SERIES_DAYS * DAY + (month * 30 + random.uniform() * 8) * DAY,
        );
        yield [
          id,
          site.id,
          compartment,
          at,
          cycles,
          Math.round(100 * site.forceScale * (8 + (3 * cycles) / 12000 + 0.5 * random.normal())) / 100,
          random.pick(["device A", "device B"]),
        ];
        id += 1;
      }
    }
  }
}

/** Every table of the demo warehouse, in the order of loading. */
export const TABLES: readonly GeneratedTable[] = [
  {
    name: "sites",
    comment: "Where lockers stand.",
    columns: [
      ["site_id", "integer PRIMARY KEY"],
      ["town", "text NOT NULL"],
      ["setting", "text NOT NULL"],
      ["compartments", "integer NOT NULL"],
      ["sheltered", "boolean NOT NULL"],
      ["opened_on", "date NOT NULL"],
    ],
    rows: (_seed, _scale, world) =>
      world.sites.map((site) => [
        site.id,
        site.town,
        site.setting,
        site.compartments,
        site.sheltered,
        site.openedOn,
      ]),
  },
  {
    name: "recipients",
    comment: "People who receive parcels. The age band is missing where it was never given.",
    columns: [
      ["recipient_id", "integer PRIMARY KEY"],
      ["age_band", "text"],
      ["notice_preference", "text NOT NULL"],
      ["joined_on", "date NOT NULL"],
    ],
    rows: (_seed, _scale, world) =>
      world.recipients.map((recipient) => [
        recipient.id,
        recipient.ageKnown ? recipient.age : null,
        recipient.notice,
        recipient.joinedOn,
      ]),
  },
  {
    name: "parcels",
    comment: "One row per parcel. Empty times have not happened yet.",
    columns: [
      ["parcel_id", "bigint PRIMARY KEY"],
      ["recipient_id", "integer NOT NULL"],
      ["site_id", "integer NOT NULL"],
      ["carrier", "text NOT NULL"],
      ["size_class", "text NOT NULL"],
      ["weight_g", "integer"],
      ["booked_at", "timestamptz NOT NULL"],
      ["delivered_at", "timestamptz"],
      ["deadline_at", "timestamptz"],
      ["collected_at", "timestamptz"],
      ["reminders_sent", "integer NOT NULL"],
    ],
    rows: parcelRows,
  },
  {
    name: "weather",
    comment: `Four readings a day in ${TOWNS.length} towns; some are missing, some were sent twice.`,
    columns: [
      ["town", "text NOT NULL"],
      ["observed_at", "timestamptz NOT NULL"],
      ["rain_mm", "double precision"],
      ["temperature_c", "double precision"],
      ["wind_ms", "double precision"],
    ],
    rows: weatherRows,
  },
  {
    name: "messages",
    comment: "Messages to support; the topic is set by hand, where it is.",
    columns: [
      ["message_id", "integer PRIMARY KEY"],
      ["parcel_id", "bigint"],
      ["sent_at", "timestamptz NOT NULL"],
      ["body", "text NOT NULL"],
      ["topic", "text"],
    ],
    rows: messageRows,
  },
  {
    name: "latch_readings",
    comment:
      "Monthly test of compartment latches. Sites were set up differently, so forces compare only within a site.",
    columns: [
      ["reading_id", "integer PRIMARY KEY"],
      ["site_id", "integer NOT NULL"],
      ["compartment", "integer NOT NULL"],
      ["taken_at", "timestamptz NOT NULL"],
      ["cycles", "integer NOT NULL"],
      ["force_n", "double precision NOT NULL"],
      ["play_mm", "double precision"],
    ],
    rows: latchRows,
  },
  {
    name: "latch_readings_old",
    comment: "Tests of latches from before the new device: no play, fewer compartments.",
    columns: [
      ["reading_id", "integer PRIMARY KEY"],
      ["site_id", "integer NOT NULL"],
      ["compartment", "integer NOT NULL"],
      ["taken_at", "timestamptz NOT NULL"],
      ["cycles", "integer NOT NULL"],
      ["force_n", "double precision NOT NULL"],
      ["device", "text NOT NULL"],
    ],
    rows: oldLatchRows,
  },
  {
    name: "returns",
    comment:
      "Return parcels that people put into lockers themselves. The size is missing where nobody chose one.",
    columns: [
      ["return_id", "integer PRIMARY KEY"],
      ["site_id", "integer NOT NULL"],
      ["dropped_at", "timestamptz NOT NULL"],
      ["size_class", "text"],
      ["hours_until_fetched", "integer"],
    ],
    rows: returnRows,
  },
];
