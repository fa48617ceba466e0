import { Random } from "./random";

/** The demo's present: nothing in its tables is later. */
export const DEMO_NOW = new Date("2026-06-30T21:40:00Z");
/** Its tables begin 14 months earlier. */
export const DEMO_START = new Date("2025-05-01T00:00:00Z");
export const HOUR = 3_600_000;
export const DAY = 24 * HOUR;

export const TOWNS = [
  "Larkmere",
  "Ostwick",
  "Tarnholm",
  "Fennbridge",
  "Quillhaven",
  "Brackley Moor",
  "Saltersea",
  "Hollin Cross",
  "Umberdale",
  "Wythorne",
  "Pellgate",
  "Marrow Ford",
  "Dunmarsh",
  "Eskerby",
] as const;
export const SETTINGS = ["street", "station", "supermarket", "petrol station", "campus"] as const;
export const AGE_BANDS = ["18-25", "26-35", "36-50", "51-65", "66+"] as const;
export const NOTICES = ["app", "email", "text"] as const;
export const CARRIERS = ["Norrpost", "Swiftlane", "Kestrel Freight", "Blue Heron"] as const;

export type Setting = (typeof SETTINGS)[number];
export type AgeBand = (typeof AGE_BANDS)[number];
export type Notice = (typeof NOTICES)[number];

export interface Site {
  readonly id: number;
  readonly town: string;
  readonly setting: Setting;
  readonly compartments: number;
  readonly sheltered: boolean;
  readonly openedOn: string;
  /** Every site's latches were set up differently: one newton here is not one newton there. */
  readonly forceScale: number;
}

export interface Recipient {
  readonly id: number;
  readonly age: AgeBand;
  readonly ageKnown: boolean;
  readonly notice: Notice;
  readonly homeSite: number;
  /** How much slower than others this person is, in log odds; nobody's table holds it. */
  readonly slowness: number;
  readonly joinedOn: string;
}

/** Weather of a town at a moment, from smooth seeded curves. */
export interface Weather {
  readonly rain: number;
  readonly temperature: number;
  readonly wind: number;
}

export interface World {
  readonly sites: readonly Site[];
  readonly recipients: readonly Recipient[];
  /** Weather by town and day since the start. */
  readonly weather: ReadonlyMap<string, readonly Weather[]>;
}

export const dayOf = (date: Date): number => Math.floor((date.getTime() - DEMO_START.getTime()) / DAY);
export const isoDay = (date: Date): string => date.toISOString().slice(0, 10);

/** Everything that does not depend on the number of parcels alone. */
export function makeWorld(seed: number, scale: number): World {
  const random = new Random(seed);
  const siteCount = Math.max(24, Math.round(60 * Math.min(scale, 40) ** 0.5));
  const sites = Array.from({ length: siteCount }, (_, index): Site => ({
    id: 101 + index,
    town: TOWNS[index % TOWNS.length]!,
    setting: random.weighted([
      ["street", 3],
      ["station", 2],
      ["supermarket", 3],
      ["petrol station", 2],
      ["campus", 1],
    ]),
    compartments: 24 + 12 * Math.floor(random.uniform() * 9),
    sheltered: random.chance(0.45),
    openedOn: isoDay(new Date(DEMO_START.getTime() - random.uniform() * 900 * DAY)),
    forceScale: Math.exp(0.6 * random.normal()),
  }));
  const recipients = Array.from(
    { length: Math.max(500, Math.round(9000 * scale)) },
    (_, index): Recipient => ({
      id: 500_001 + index,
      age: random.weighted([
        ["18-25", 2],
        ["26-35", 4],
        ["36-50", 4],
        ["51-65", 3],
        ["66+", 1.5],
      ]),
      ageKnown: random.chance(0.88),
      notice: random.weighted([
        ["app", 5],
        ["email", 3],
        ["text", 2],
      ]),
      homeSite: Math.floor(random.uniform() * siteCount),
      slowness: 0.3 * random.normal(),
      joinedOn: isoDay(new Date(DEMO_START.getTime() - random.uniform() * 1200 * DAY)),
    }),
  );
  const days = dayOf(DEMO_NOW) + 1;
  const weather = new Map(
    TOWNS.map((town, index): [string, readonly Weather[]] => {
      let wet = 0;
      return [
        town,
        Array.from({ length: days }, (_, day): Weather => {
          wet = 0.6 * wet + random.normal();
          const season = Math.cos((2 * Math.PI * (day - 75)) / 365.25);
          return {
            rain: Math.max(0, 4 * (wet - 0.4)),
            temperature: 10 + 8 * season + 0.3 * index + 2 * random.normal(),
            wind: Math.abs(4 + 2 * random.normal()),
          };
        }),
      ];
    }),
  );
  return { sites, recipients, weather };
}
