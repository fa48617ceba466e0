"use server";
import { z } from "zod";
import { problem, success } from "@/core/problem";
import { MOST_PARALLEL, orderBackfill, stopBackfill } from "@/runs/backfill";
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
} from "@/store/settings";
import { action, refuse } from "./answer/action";
import { idInput, nameInput, remarkInput, uuidInput } from "./answer/inputs";
import { appContext, appQueue } from "./context";

const dayInput = z.iso.date();

/** Orders a scoring for every time of the schedule from one day through another; gives the backfill's id. */
export const startBackfill = action(
  [
    z.object({
      pipeline: nameInput,
      delivery: nameInput,
      from: dayInput,
      until: dayInput,
      parallel: z.int().min(1).max(MOST_PARALLEL),
      by: remarkInput(80),
    }),
  ],
  async ({ pipeline, delivery, from, until, parallel, by }) => {
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
    return ordered.ok ? success(ordered.value.id) : ordered;
  },
);

/** Pauses a backfill, lets it go on, or ends it. */
export const changeBackfill = action(
  [idInput, z.enum(["running", "paused", "stopped"])],
  async (id, state) => {
    const context = await appContext();
    const backfill = await backfillById(context.store.db, id);
    if (!backfill) return refuse(problem("unknown_backfill", "Backfill not found."));
    if (state === "stopped") await stopBackfill(context, backfill.id);
    else await setBackfillState(context.store.db, backfill.id, state);
    return success(undefined);
  },
);

/** Lets a failed run go on from where it failed. */
export const goOnWithRun = action([uuidInput], async (id) => {
  const { store } = await appContext();
  const run = await retryRun(store.db, id);
  if (!run) return refuse(problem("not_failed", "Only a failed run can be resumed.", "Reload the page."));
  await sendRun(await appQueue(), run);
  await announceRun(store, run.id);
  return success(run.id);
});

/** Most days that pass at once. */
const MOST_DAYS = 31;

/** Lets days pass in the demo: its own process makes rows arrive, and moves the clock from one due time to the next. */
export const letDemoTimePass = action([z.int().min(1).max(MOST_DAYS)], async (days) => {
  const { store, now } = await appContext();
  const demo = await demoState(store.db);
  if (!demo) return refuse(problem("no_demo", "The clock can be advanced in the demo only."));
  if (demo.wish) return refuse(problem("passing", "The clock is already advancing.", "Wait until it stops."));
  await wishDemoTime(store.db, new Date((await now()).getTime() + days * 86_400_000));
  return success(undefined);
});

/** Changes how long what runs leave behind is kept. */
export const changeKeeping = action([z.record(nameInput, z.unknown())], async (keeping) => {
  const { store } = await appContext();
  const given = keepingSchema.safeParse(keeping);
  if (!given.success)
    return refuse(problem("bad_keeping", "Days are whole numbers from 1 to 3650, hours from 1 to 8760."));
  await setKeeping(store.db, given.data);
  return success(undefined);
});

/** Orders the scoring of a table chosen now; gives the run. */
export const scoreOnDemand = action(
  [
    z.object({
      pipeline: nameInput,
      table: nameInput.trim().min(1),
      into: nameInput.trim(),
      columns: z.array(nameInput).max(1600),
      allUnseen: z.enum(["stop", "warn"]),
    }),
  ],
  async ({ pipeline, table, into, columns, allUnseen }) => {
    const ordered = await orderOnDemand(await appContext(), await appQueue(), {
      pipeline,
      table,
      columns,
      allUnseen,
      cause: "hand",
      ...(into === "" ? {} : { into }),
    });
    return ordered.ok ? success(ordered.value.id) : ordered;
  },
);

/** Sends a message again that did not arrive. */
export const sendMessageAgain = action([idInput], async (id) => {
  await sendAgain((await appContext()).store.db, id);
  return success(undefined);
});

/** Changes who hears of alerts; empty fields mean nobody. */
export const changeNotify = action(
  [
    z.object({
      webhook: remarkInput(2000),
      server: remarkInput(300),
      from: remarkInput(300),
      to: remarkInput(300),
    }),
  ],
  async ({ webhook, server, from, to }) => {
    const wanted = notifySchema.safeParse({
      webhook: webhook === "" ? null : webhook,
      mail: to === "" ? null : { server, from, to },
      since: new Date(),
    });
    if (!wanted.success)
      return refuse(
        problem(
          "bad_receiver",
          "A webhook is an http or https address; mail needs a recipient, a sender and a server such as mail.example.org:25.",
        ),
      );
    await setNotify((await appContext()).store.db, wanted.data);
    return success(undefined);
  },
);
