"use server";
import { z } from "zod";
import { problem } from "@/core/problem";
import { orderBackfill, stopBackfill } from "@/runs/backfill";
import { orderOnDemand } from "@/runs/on-demand";
import { sendRun } from "@/runs/queue";
import { backfillById, setBackfillState } from "@/store/backfills";
import { announceRun } from "@/store/database";
import { retryRun } from "@/store/runs";
import { sendAgain } from "@/store/outbox";
import {
  demoState,
  keepingSchema,
  notifySchema,
  setKeeping,
  setNotify,
  wishDemoTime,
  type Keeping,
} from "@/store/settings";
import { attempt, type Outcome } from "./attempt";
import { appContext, appQueue } from "./context";

const day = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, "write a day as 2026-06-30");
const backfillSchema = z.object({
  pipeline: z.string(),
  delivery: z.string(),
  from: day,
  until: day,
  parallel: z.number(),
  by: z.string().trim().max(80),
});

/** Orders a scoring for every time of the schedule from one day through another; gives the backfill's id. */
export async function startBackfill(input: z.infer<typeof backfillSchema>): Promise<Outcome<number>> {
  return attempt(async () => {
    const { pipeline, delivery, from, until, parallel, by } = backfillSchema.parse(input);
    const context = await appContext();
    const now = await context.now();
    const end = new Date(`${until}T23:59:59Z`);
    const ordered = await orderBackfill(context, {
      pipeline,
      from: new Date(`${from}T00:00:00Z`),
      until: end > now ? now : end,
      parallel,
      ...(delivery === "" ? {} : { delivery }),
      ...(by === "" ? {} : { by }),
    });
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  });
}

/** Pauses a backfill, lets it go on, or ends it. */
export async function changeBackfill(id: number, state: "running" | "paused" | "stopped"): Promise<Outcome> {
  return attempt(async () => {
    const context = await appContext();
    const backfill = await backfillById(context.store.db, z.int().parse(id));
    if (!backfill)
      return { ok: false, problems: [problem("unknown_backfill", "There is no such backfill.")] };
    if (state === "stopped") await stopBackfill(context, backfill.id);
    else await setBackfillState(context.store.db, backfill.id, z.enum(["running", "paused"]).parse(state));
    return { ok: true, value: undefined };
  });
}

/** Lets a failed run go on from where it failed. */
export async function goOnWithRun(id: string): Promise<Outcome<string>> {
  return attempt(async () => {
    const { store } = await appContext();
    const run = await retryRun(store.db, z.uuid().parse(id));
    if (!run)
      return {
        ok: false,
        problems: [problem("not_failed", "Only a run that failed can go on.", "Load the page again.")],
      };
    await sendRun(await appQueue(), run);
    await announceRun(store, run.id);
    return { ok: true, value: run.id };
  });
}

/** Most days that pass at once. */
const MOST_DAYS = 31;

/** Lets days pass in the demo: its own process makes rows arrive, and moves the clock from one due time to the next. */
export async function letDemoTimePass(days: number): Promise<Outcome> {
  return attempt(async () => {
    const { store, now } = await appContext();
    const span = z.int().min(1).max(MOST_DAYS).parse(days);
    const demo = await demoState(store.db);
    if (!demo)
      return { ok: false, problems: [problem("no_demo", "Time can be made to pass in the demo only.")] };
    if (demo.wish)
      return {
        ok: false,
        problems: [problem("passing", "Time is passing already.", "Wait until it stands again.")],
      };
    await wishDemoTime(store.db, new Date((await now()).getTime() + span * 86_400_000));
    return { ok: true, value: undefined };
  });
}

/** Changes how long what runs leave behind is kept. */
export async function changeKeeping(keeping: Keeping): Promise<Outcome> {
  return attempt(async () => {
    const { store } = await appContext();
    const given = keepingSchema.safeParse(keeping);
    if (!given.success)
      return {
        ok: false,
        problems: [problem("bad_keeping", "Days are whole numbers from 1 to 3650, hours from 1 to 8760.")],
      };
    await setKeeping(store.db, given.data);
    return { ok: true, value: undefined };
  });
}

const onDemandSchema = z.object({
  pipeline: z.string(),
  table: z.string().trim().min(1),
  into: z.string().trim(),
  columns: z.array(z.string()),
  allUnseen: z.enum(["stop", "warn"]),
});

/** Orders the scoring of a table chosen now; gives the run. */
export async function scoreOnDemand(input: z.infer<typeof onDemandSchema>): Promise<Outcome<string>> {
  return attempt(async () => {
    const { pipeline, table, into, columns, allUnseen } = onDemandSchema.parse(input);
    const ordered = await orderOnDemand(await appContext(), await appQueue(), {
      pipeline,
      table,
      columns,
      allUnseen,
      cause: "hand",
      ...(into === "" ? {} : { into }),
    });
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  });
}

/** Sends a message again that did not arrive. */
export async function sendMessageAgain(id: number): Promise<Outcome> {
  return attempt(async () => {
    await sendAgain((await appContext()).store.db, z.int().parse(id));
    return { ok: true, value: undefined };
  });
}

/** Changes who hears of alerts; empty fields mean nobody. */
export async function changeNotify(given: {
  readonly webhook: string;
  readonly server: string;
  readonly from: string;
  readonly to: string;
}): Promise<Outcome> {
  return attempt(async () => {
    const text = z.string().trim();
    const [webhook, server, from, to] = [given.webhook, given.server, given.from, given.to].map((each) =>
      text.parse(each),
    ) as [string, string, string, string];
    const wanted = notifySchema.safeParse({
      webhook: webhook === "" ? null : webhook,
      mail: to === "" ? null : { server, from, to },
      since: new Date(),
    });
    if (!wanted.success)
      return {
        ok: false,
        problems: [
          problem(
            "bad_receiver",
            "A webhook is an http or https address; mail needs a recipient, a sender and a server such as mail.example.org:25.",
          ),
        ],
      };
    await setNotify((await appContext()).store.db, wanted.data);
    return { ok: true, value: undefined };
  });
}
