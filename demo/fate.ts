import type { Random } from "./random";
import { DAY, HOUR, type Recipient, type Site, type Weather } from "./world";

const AGE_EFFECT: Readonly<Record<Recipient["age"], number>> = {
  "18-25": 0.9,
  "26-35": 0.35,
  "36-50": 0,
  "51-65": -0.5,
  "66+": -1.0,
};
const NOTICE_EFFECT: Readonly<Record<Recipient["notice"], number>> = { app: -0.9, email: 0.85, text: 0 };
const SETTING_EFFECT: Readonly<Record<Site["setting"], number>> = {
  street: 0.2,
  station: -0.8,
  supermarket: -0.35,
  "petrol station": 0.75,
  campus: 1.1,
};
export const SIZES = [
  ["S", 5],
  ["M", 4],
  ["L", 2],
] as const;
const SIZE_EFFECT: Readonly<Record<string, number>> = { S: -0.35, M: 0, L: 0.7, XL: 1.2 };
export const SIZE_WEIGHT: Readonly<Record<string, number>> = { S: 450, M: 1700, L: 5200, XL: 11000 };
/** Parcels of a Friday (5) and a Saturday (6) wait over the weekend. */
const WEEKDAY_EFFECT: Readonly<Partial<Record<number, number>>> = { 5: 0.8, 6: 0.45 };
const CARRIER_EFFECT: readonly number[] = [0, 0.35, -0.3, 0.15];
/** Log odds of an ordinary parcel to be left longer than 72 hours. */
const BASE = -1.95;
const WAIT = 72 * HOUR;

export interface LeftParcel {
  readonly recipient: Recipient;
  readonly site: Site;
  readonly size: string;
  /** Position among the carriers. */
  readonly carrier: number;
  readonly delivered: Date;
  readonly weather: Weather;
}

/** Log odds that a parcel is left longer than 72 hours: the truth that models of the demo can find in part. */
export function leftOdds({ recipient, site, size, carrier, delivered, weather }: LeftParcel): number {
  const weekday = delivered.getUTCDay();
  return (
    BASE +
    1.3 * AGE_EFFECT[recipient.age] +
    1.15 * NOTICE_EFFECT[recipient.notice] +
    1.15 * SETTING_EFFECT[site.setting] +
    SIZE_EFFECT[size]! +
    CARRIER_EFFECT[carrier]! +
    (site.sheltered ? -0.25 : 0.09 * Math.min(weather.rain, 14)) -
    0.045 * (weather.temperature - 10) +
    (WEEKDAY_EFFECT[weekday] ?? 0) +
    0.055 * (delivered.getUTCHours() - 13) +
    recipient.slowness
  );
}

/** Whether a parcel is left long, and how many milliseconds it waits. */
export function drawWait(random: Random, odds: number): { readonly slow: boolean; readonly wait: number } {
  const slow = random.chance(1 / (1 + Math.exp(-odds)));
  return {
    slow,
    wait: slow
      ? WAIT + random.exponential(50) * HOUR
      : Math.min(WAIT - HOUR / 4, (1 + random.exponential(19)) * HOUR),
  };
}

/** When a parcel gets into its locker: vans deliver between 8 and 18 o'clock. */
export function drawDelivery(random: Random, booked: number, transit: number): Date {
  const delivered = new Date(booked + transit);
  delivered.setUTCHours(
    8 + Math.floor(random.uniform() * 10),
    Math.floor(random.uniform() * 60),
    Math.floor(random.uniform() * 60),
  );
  return delivered.getTime() < booked ? new Date(delivered.getTime() + DAY) : delivered;
}
