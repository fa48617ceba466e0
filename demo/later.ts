import type pg from "pg";
import { quoteTable } from "@/warehouse/postgres/dialect/quote";
import { drawDelivery, drawWait, leftOdds, SIZES, SIZE_WEIGHT } from "./fate";
import { DEMO_SCHEMA, DEMO_SEED } from "./load";
import { oneMessage } from "./messages";
import { Random } from "./random";
import { hourEffect, misspelt, SENT_LATER } from "./tables";
import { CARRIERS, DAY, dayOf, DEMO_START, HOUR, TOWNS, type Weather, type World } from "./world";

/** Days that the demo's tables reach over when they are made, about: what comes later comes as densely. */
const MADE_DAYS = 425;
/** Parcels that have not arrived after so many days are lost; those that wait for longer go back. */
const LOST_DAYS = 8;
const GONE_DAYS = 25;
const TRIES = 200;

interface Span {
  readonly scale: number;
  readonly from: Date;
  readonly to: Date;
}

/** Weather of a day: the world's own as long as it reaches, and then drawn from the season. */
function weatherOn(world: World, town: string, day: number): Weather {
  const known = world.weather.get(town)?.[day];
  if (known) return known;
  const random = new Random(DEMO_SEED + 1000 * (TOWNS as readonly string[]).indexOf(town) + day);
  return {
    rain: Math.max(0, 5 * (random.normal() - 0.4)),
    temperature: 10 + 8 * Math.cos((2 * Math.PI * (day - 75)) / 365.25) + 2 * random.normal(),
    wind: Math.abs(4 + 2 * random.normal()),
  };
}

/** What the scales should have sent on some days comes after all. */
export async function sendWeightsLater(client: pg.Client): Promise<void> {
  const weights = Object.entries(SIZE_WEIGHT);
  await client.query(
    `UPDATE ${table("parcels")} AS p SET weight_g = round(w.usual * (0.7 + 0.1 * (p.parcel_id % 7))) FROM unnest($1::text[], $2::double precision[]) AS w(size, usual)
    WHERE p.size_class = w.size AND p.weight_g IS NULL AND p.delivered_at::date = ANY ($3::date[])`,
    [weights.map(([size]) => size), weights.map(([, usual]) => usual), [...SENT_LATER]],
  );
}

const table = (name: string): string => quoteTable({ schema: DEMO_SCHEMA, table: name });
const within = (at: Date, { from, to }: Span): boolean => at > from && at <= to;

/**
 * Lets time pass in the demo's tables, in one transaction: parcels are booked, delivered and collected, weather is read, people write
 * and bring things back. What happens in a span depends on the span alone and on what is there.
 */
export async function letTimePass(client: pg.Client, world: World, span: Span): Promise<void> {
  if (span.to <= span.from) return;
  await client.query("BEGIN");
  try {
    await bookParcels(client, world, span);
    await deliverParcels(client, span);
    await collectParcels(client, world, span);
    await readWeather(client, world, span);
    await writeMessages(client, span);
    await bringBack(client, world, span);
    await client.query("COMMIT");
  } catch (error) {
    await client.query("ROLLBACK");
    throw error;
  }
}

/** Moments at which something happens in a span that happens so many times a day, in order. */
function moments(random: Random, { from, to }: Span, perDay: number): readonly Date[] {
  const expected = (perDay * (to.getTime() - from.getTime())) / DAY;
  const count = Math.floor(expected) + (random.chance(expected % 1) ? 1 : 0);
  return Array.from(
    { length: count },
    () => new Date(from.getTime() + (to.getTime() - from.getTime()) * random.uniform()),
  ).sort((left, right) => left.getTime() - right.getTime());
}

const spanSeed = ({ from }: Span, which: number): number =>
  DEMO_SEED + which * 7919 + Math.floor(from.getTime() / 60_000);

async function nextId(client: pg.Client, name: string, column: string): Promise<number> {
  const { rows } = await client.query<{ id: string }>(
    `SELECT coalesce(max(${column}), 0) + 1 AS id FROM ${table(name)}`,
  );
  return Number(rows[0]!.id);
}

async function bookParcels(client: pg.Client, world: World, span: Span): Promise<void> {
  const random = new Random(spanSeed(span, 1));
  const first = await nextId(client, "parcels", "parcel_id");
  const rows = moments(random, span, (60_000 * span.scale) / MADE_DAYS).map((booked, index) => {
    const recipient = random.pick(world.recipients);
    const site = random.chance(0.8) ? world.sites[recipient.homeSite]! : random.pick(world.sites);
    const size: string = random.chance(0.12) ? "XL" : random.weighted(SIZES);
    return [
      first + index,
      recipient.id,
      site.id,
      misspelt(random, random.pick(CARRIERS)),
      size,
      random.chance(0.045) ? null : Math.round(SIZE_WEIGHT[size]! * Math.exp(0.45 * random.normal())),
      booked,
    ] as const;
  });
  await client.query(
    `INSERT INTO ${table("parcels")} (parcel_id, recipient_id, site_id, carrier, size_class, weight_g, booked_at, reminders_sent)
    SELECT *, 0 FROM unnest($1::bigint[], $2::integer[], $3::integer[], $4::text[], $5::text[], $6::integer[], $7::timestamptz[])`,
    [0, 1, 2, 3, 4, 5, 6].map((column) => rows.map((row) => row[column])),
  );
}

async function deliverParcels(client: pg.Client, span: Span): Promise<void> {
  const { rows } = await client.query<{ parcel_id: string; booked_at: Date }>(
    `SELECT parcel_id, booked_at FROM ${table("parcels")} WHERE delivered_at IS NULL AND booked_at > $1`,
    [new Date(span.from.getTime() - LOST_DAYS * DAY)],
  );
  const arrived = rows.flatMap(({ parcel_id: id, booked_at: booked }) => {
    const random = new Random(DEMO_SEED + 31 * Number(id));
    if (random.chance(0.004)) return [];
    let at = drawDelivery(random, booked.getTime(), (18 + random.exponential(20)) * HOUR);
    // It has not come until now, so it comes on a later day.
    while (at <= span.from) at = new Date(at.getTime() + DAY);
    return within(at, span) ? [{ id, at }] : [];
  });
  await client.query(
    `UPDATE ${table("parcels")} AS p SET delivered_at = n.at, deadline_at = n.at + interval '5 days' FROM unnest($1::bigint[], $2::timestamptz[]) AS n(id, at) WHERE p.parcel_id = n.id`,
    [arrived.map((parcel) => parcel.id), arrived.map((parcel) => parcel.at)],
  );
}

async function collectParcels(client: pg.Client, world: World, span: Span): Promise<void> {
  const { rows } = await client.query<{
    parcel_id: string;
    recipient_id: number;
    site_id: number;
    carrier: string;
    size_class: string;
    delivered_at: Date;
  }>(
    `SELECT parcel_id, recipient_id, site_id, carrier, size_class, delivered_at FROM ${table("parcels")} WHERE delivered_at > $1 AND collected_at IS NULL`,
    [new Date(span.from.getTime() - GONE_DAYS * DAY)],
  );
  const carriers = CARRIERS.map((carrier) => carrier.toLowerCase());
  const fetched: { readonly id: string; readonly at: Date }[] = [];
  const reminded: { readonly id: string; readonly count: number }[] = [];
  for (const row of rows) {
    const { delivered_at: delivered } = row;
    const random = new Random(DEMO_SEED + 37 * Number(row.parcel_id));
    const recipient = world.recipients[row.recipient_id - world.recipients[0]!.id];
    const site = world.sites[row.site_id - world.sites[0]!.id];
    if (!recipient || !site) continue;
    const odds = leftOdds({
      recipient,
      site,
      size: row.size_class,
      carrier: carriers.indexOf(row.carrier.trim().toLowerCase()),
      delivered,
      weather: weatherOn(world, site.town, dayOf(delivered)),
    });
    const waited = Math.max(0, span.from.getTime() - delivered.getTime());
    let drawn = drawWait(random, odds);
    // It has waited until now: of what may happen, something that is still to come.
    for (let tries = 0; drawn.wait <= waited && tries < TRIES; tries += 1) drawn = drawWait(random, odds);
    const at = new Date(delivered.getTime() + drawn.wait);
    if (!(drawn.slow && random.chance(0.09)) && within(at, span)) fetched.push({ id: row.parcel_id, at });
    reminded.push({
      id: row.parcel_id,
      count: Math.max(
        0,
        Math.min(
          5,
          Math.floor((Math.min(at.getTime(), span.to.getTime()) - delivered.getTime()) / (36 * HOUR)),
        ),
      ),
    });
  }
  await client.query(
    `UPDATE ${table("parcels")} AS p SET collected_at = n.at FROM unnest($1::bigint[], $2::timestamptz[]) AS n(id, at) WHERE p.parcel_id = n.id`,
    [fetched.map((parcel) => parcel.id), fetched.map((parcel) => parcel.at)],
  );
  await client.query(
    `UPDATE ${table("parcels")} AS p SET reminders_sent = greatest(p.reminders_sent, n.sent) FROM unnest($1::bigint[], $2::integer[]) AS n(id, sent) WHERE p.parcel_id = n.id`,
    [reminded.map((parcel) => parcel.id), reminded.map((parcel) => parcel.count)],
  );
}

async function readWeather(client: pg.Client, world: World, span: Span): Promise<void> {
  const rows: (readonly [string, Date, number, number, number])[] = [];
  for (let day = dayOf(span.from); day <= dayOf(span.to); day += 1) {
    for (const hour of [0, 6, 12, 18]) {
      const at = new Date(DEMO_START.getTime() + day * DAY + hour * HOUR);
      if (!within(at, span)) continue;
      for (const town of TOWNS) {
        const weather = weatherOn(world, town, day);
        rows.push([
          town,
          at,
          Math.round(weather.rain * 2.5) / 10,
          Math.round((weather.temperature + hourEffect(hour)) * 10) / 10,
          Math.round(weather.wind * 10) / 10,
        ]);
      }
    }
  }
  await client.query(
    `INSERT INTO ${table("weather")} SELECT * FROM unnest($1::text[], $2::timestamptz[], $3::double precision[], $4::double precision[], $5::double precision[])`,
    [0, 1, 2, 3, 4].map((column) => rows.map((row) => row[column])),
  );
}

async function writeMessages(client: pg.Client, span: Span): Promise<void> {
  const random = new Random(spanSeed(span, 2));
  const first = await nextId(client, "messages", "message_id");
  const sent = moments(random, span, (4000 * span.scale) / MADE_DAYS);
  if (sent.length === 0) return;
  // Nobody has set a topic by hand yet.
  await client.query(
    `INSERT INTO ${table("messages")} (message_id, sent_at, body) SELECT * FROM unnest($1::integer[], $2::timestamptz[], $3::text[])`,
    [sent.map((_, index) => first + index), sent, sent.map(() => oneMessage(random).body)],
  );
}

async function bringBack(client: pg.Client, world: World, span: Span): Promise<void> {
  const random = new Random(spanSeed(span, 3));
  const first = await nextId(client, "returns", "return_id");
  const rows = moments(random, span, (9000 * span.scale) / MADE_DAYS).map(
    (at, index) =>
      [
        first + index,
        world.sites[Math.floor(world.sites.length * random.uniform() ** 1.4)]!.id,
        at,
        random.chance(0.06) ? null : random.weighted(SIZES),
        random.chance(0.2) ? null : Math.round(1 + random.exponential(9)),
      ] as const,
  );
  await client.query(
    `INSERT INTO ${table("returns")} SELECT * FROM unnest($1::integer[], $2::integer[], $3::timestamptz[], $4::text[], $5::integer[])`,
    [0, 1, 2, 3, 4].map((column) => rows.map((row) => row[column])),
  );
}
