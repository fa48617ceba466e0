import { formatNumber } from "@/core/format/numbers";
import { execFileSync } from "node:child_process";
import { mkdirSync, rmSync } from "node:fs";
import { buildPages } from "@/cli/services/build";
import { sendRun } from "@/runs/queue";
import { askCancel, retryRun, runById, runRecord } from "@/store/runs";
import { setClockOffset } from "@/store/settings";
import { labFile, labTable } from "../testing/lab";
import type { TestInstallation } from "../testing/installation";
import { pause, until } from "../testing/installation";

/** What was there after a fault. */
export interface FaultResult {
  readonly fault: string;
  /** How the run that met it ended, and in which attempt. */
  readonly ended: string;
  /** Keys that should have a prediction of the newest landed run and have none; keys that have two. */
  readonly lost: number;
  readonly doubled: number;
  /** Whether the ledger's number of rows is the number of rows that lie in the table, for every run that landed last. */
  readonly ledger: boolean;
  readonly scratch: number;
  /** Whether what else must be true after this fault is. */
  readonly held: boolean;
}

const ORDERS = 'schedules: [{name: minutely, run: score, cron: "* * * * *", zone: UTC, missed: skip}]';
/** Steps of a delivery, each of which a worker is killed in. */
const STEPS = [
  "find the version in service",
  "check the ledger",
  "check the contract: sources",
  "check the contract: rows",
  "score into a staged table",
  "measure input drift",
  "check the staged rows",
  "move them into the prediction table",
  "compare earlier predictions with actuals",
];

/** Steps of a training in which one is killed. */
const TRAINING_STEPS = [
  "prepare rows and split off the holdout",
  "build the training frame",
  "train in the warehouse",
  "score the holdout",
  "save the version",
];

/** Each fault, tried on an installation of its own, with a count of what it leaves behind. */
export class FaultSuite {
  readonly results: FaultResult[] = [];
  private hour = 0;

  constructor(
    private readonly place: TestInstallation,
    private readonly say: (line: string) => void,
  ) {}

  /** A logical time later than all before. */
  later(): string {
    this.hour += 1;
    return new Date(Date.parse("2026-07-01T00:00:00Z") + this.hour * 3_600_000).toISOString();
  }

  /** Lets later logical times be later than now, when runs of schedules have happened. */
  passNow(): void {
    this.hour = Math.ceil((Date.now() - Date.parse("2026-07-01T00:00:00Z")) / 3_600_000) + 1;
  }

  /** Counts what a fault has left behind. `landed`: whether the newest run must have predicted every key. `held`: whether what else must be true is. */
  async audit(fault: string, run: string | undefined, { landed = true, held = true } = {}): Promise<void> {
    const [found] = await this.place
      .sql(`SELECT (SELECT count(*) FROM lab.rows r WHERE answer IS NULL AND NOT EXISTS (SELECT 1 FROM predictions.lab p WHERE p.id = r.id${landed && run ? ` AND p.run_id = '${run}'` : ""}))::int AS lost,
      (SELECT count(*) - count(DISTINCT id) FROM predictions.lab)::int AS doubled,
      (SELECT coalesce(bool_and(l.rows = p.rows), true) FROM (SELECT run_id, count(*) AS rows FROM predictions.lab GROUP BY run_id) p LEFT JOIN predictions.ravlen_ledger l USING (run_id)) AS ledger`);
    const row = run === undefined ? undefined : await runById(this.place.context.store.db, run);
    const result = {
      fault,
      ended: row ? `${row.state}, attempt ${row.attempt}` : "–",
      lost: Number(found!["lost"]),
      doubled: Number(found!["doubled"]),
      ledger: found!["ledger"] === true,
      scratch: (await this.place.leftovers()).length,
      held,
    };
    this.results.push(result);
    this.say(
      `${fault}: ${result.ended}; lost ${result.lost}, doubled ${result.doubled}, ledger ${result.ledger ? "agrees" : "DISAGREES"}, scratch ${result.scratch}${held ? "" : "; WHAT ELSE MUST HOLD DOES NOT"}`,
    );
  }

  async killed(): Promise<void> {
    for (const [kind, step] of [
      ...STEPS.map((step) => ["score", step] as const),
      ...TRAINING_STEPS.map((trainingStep) => ["train", trainingStep] as const),
    ]) {
      const worker = await this.place.startWorker();
      const run = await this.place.order(kind, this.later());
      await this.place.atStep(run, step, 3).catch(() => undefined);
      await this.place.kill(worker);
      await this.place.lapse();
      const next = await this.place.startWorker();
      await this.place.ended(run);
      await this.place.kill(next);
      await this.audit(`worker killed: ${step}`, run, { landed: kind === "score" });
    }
  }

  async restarted(): Promise<void> {
    const worker = await this.place.startWorker();
    for (const [kind, step] of [
      ["train", "train in the warehouse"],
      ["score", "score into a staged table"],
      ["score", "move them into the prediction table"],
    ] as const) {
      const run = await this.place.order(kind, this.later());
      await this.place.atStep(run, step, 3).catch(() => undefined);
      await this.place.restartPostgres();
      await this.place.lapse();
      await this.place.ended(run);
      await this.audit(`PostgreSQL restarted: ${step}`, run, { landed: kind === "score" });
    }
    // A crash empties unlogged tables; the staged rows are one.
    for (const step of [
      "score into a staged table",
      "measure input drift",
      "check the staged rows",
      "move them into the prediction table",
    ]) {
      const run = await this.place.order("score", this.later());
      await this.place.atStep(run, step, 3).catch(() => undefined);
      await this.place.restartPostgres("immediate");
      await this.place.lapse();
      await this.place.ended(run);
      await this.audit(`PostgreSQL crashed: ${step}`, run);
    }
    await this.place.kill(worker);
  }

  /** The web server is killed in each step of a delivery, and tells the truth when it is back. */
  async webKilled(): Promise<void> {
    await buildPages(process.cwd(), this.say);
    const worker = await this.place.startWorker();
    for (const step of STEPS) {
      const web = await this.place.startWeb();
      const run = await this.place.order("score", this.later());
      await this.place.atStep(run, step, 3).catch(() => undefined);
      await this.place.kill(web);
      await this.place.ended(run);
      const again = await this.place.startWeb();
      const shown = (await this.place.page(`/runs/${run}`)).includes("4,000 rows into predictions.lab");
      await this.place.kill(again);
      await this.audit(`web server killed: ${step}`, run, { held: shown });
    }
    await this.place.kill(worker);
  }

  /** A schedule that fires every minute while each run takes longer, with two workers. */
  async everyMinute(minutes: number): Promise<void> {
    const workers = await Promise.all([this.place.startWorker(), this.place.startWorker()]);
    await this.slowTarget(0.0175);
    await this.place.save(labFile({ more: ORDERS }));
    const slots = () => this.timed("run_time > now() - interval '1 day'");
    const end = Date.now() + minutes * 60_000;
    let most = 0;
    let holding = true;
    const watch = (async () => {
      while (holding) {
        most = Math.max(
          most,
          (await slots()).filter((slot) => ["queued", "running"].includes(slot.state)).length,
        );
        await pause(1000);
      }
    })();
    await pause(end - Date.now());
    const {
      rows: [schedule],
    } = await this.place.context.store.pool.query<{ left: string }>(
      "SELECT left_out AS left FROM schedules WHERE name = 'minutely'",
    );
    await this.place.save(labFile());
    holding = false;
    await watch;
    await until(
      "scheduled runs to end",
      async () => (await slots()).every((slot) => ["done", "failed", "cancelled"].includes(slot.state)),
      600,
    );
    await this.place.sql("DROP TRIGGER slowly ON predictions.lab");
    const found = await slots();
    for (const worker of workers) await this.place.kill(worker);
    await this.audit(
      `every minute for ${minutes} minutes: ${found.length} runs of ${formatNumber(found.reduce((sum, part) => sum + part.seconds, 0) / found.length)} s in the mean, ${new Set(found.map((part) => part.slot)).size} different times, ${schedule?.left ?? 0} excluded, at most ${most} at once, ${found.filter((part) => part.state !== "done").length} not done`,
      found.at(-1)?.id,
      {
        held:
          most <= 2 &&
          new Set(found.map((part) => part.slot)).size === found.length &&
          found.every((part) => part.state === "done"),
      },
    );
    this.passNow();
  }

  async crowded(count: number): Promise<void> {
    const workers = await Promise.all(Array.from({ length: count }, () => this.place.startWorker()));
    const runs = await Promise.all(
      Array.from({ length: 3 * count }, () => this.place.order("score", this.later())),
    );
    for (const run of runs) await this.place.ended(run);
    await this.audit(`${count} workers, ${runs.length} runs of one delivery at once`, runs.at(-1));
    for (const worker of workers) await this.place.kill(worker);
  }

  /** Somebody holds a table locked for a while. */
  async locked(table: string, seconds: number): Promise<void> {
    const worker = await this.place.startWorker({ RAVLEN_LOCK_SECONDS: "1" });
    const holding = this.place.sql(
      `BEGIN; LOCK TABLE ${table} IN ACCESS EXCLUSIVE MODE; SELECT pg_sleep(${seconds}); COMMIT`,
    );
    await pause(300);
    const run = await this.place.order("score", this.later());
    await holding;
    await this.place.ended(run);
    await this.place.kill(worker);
    await this.audit(`${table} locked for ${seconds} s`, run);
  }

  /** A change to the target while a run writes, and the mending of it. */
  async changed(fault: string, change: string, mend: string): Promise<void> {
    const worker = await this.place.startWorker();
    await this.place.sql(change);
    const run = await this.place.order("score", this.later());
    const { state } = await this.place.ended(run);
    await this.place.sql(mend);
    if (state === "failed") await this.goOn(run);
    await this.place.kill(worker);
    await this.audit(`${fault}${state === "failed" ? ", failed, mended, gone on with" : ""}`, run);
  }

  private async goOn(run: string): Promise<void> {
    const again = await retryRun(this.place.context.store.db, run);
    if (again) await sendRun(this.place.boss, again);
    await this.place.ended(run);
  }

  async diskFull(): Promise<void> {
    const disk = `${this.place.home}/small`;
    mkdirSync(disk, { mode: 0o777 });
    try {
      execFileSync("mount", ["-t", "tmpfs", "-o", "size=250k,mode=0777", "tmpfs", disk]);
    } catch {
      this.say("a disk that fills: not tried, this machine lets nobody mount one");
      return;
    }
    try {
      mkdirSync(`${disk}/space`, { mode: 0o700 });
      execFileSync("chown", ["postgres:postgres", `${disk}/space`]);
      await this.place.sql(`CREATE TABLESPACE small LOCATION '${disk}/space'`);
      const { writer } = this.place.context.warehouse.config;
      await this.place.sql("GRANT CREATE ON TABLESPACE small TO PUBLIC");
      await this.place.sql(`ALTER ROLE "${writer.user}" SET default_tablespace = small`);
      const worker = await this.place.startWorker();
      const run = await this.place.order("score", this.later());
      const { problems } = await this.place.ended(run);
      await this.audit(`disk full: ${problems[0]?.message.slice(0, 80) ?? ""}`, run, { landed: false });
      await this.place.sql(`ALTER ROLE "${writer.user}" RESET default_tablespace`);
      await this.place.kill(worker);
      const next = await this.place.startWorker();
      await this.goOn(run);
      await this.place.kill(next);
      await this.audit("disk has room again, gone on with", run);
      await this.place.sql("DROP TABLESPACE small");
    } finally {
      execFileSync("umount", [disk]);
      rmSync(disk, { recursive: true, force: true });
    }
  }

  /** The application's clock jumps forth and back while a schedule runs every minute, with two workers. */
  async clockJumps(): Promise<void> {
    const { db } = this.place.context.store;
    await setClockOffset(db, Date.parse("2026-08-01T00:00:10Z") - Date.now());
    await this.place.save(labFile({ more: ORDERS }));
    const workers = await Promise.all([this.place.startWorker(), this.place.startWorker()]);
    for (const at of [
      "2026-08-01T00:03:05Z",
      "2026-08-01T00:01:30Z",
      "2026-08-01T04:00:05Z",
      "2026-07-31T12:00:00Z",
      "2026-08-01T04:02:05Z",
    ]) {
      await setClockOffset(db, Date.parse(at) - Date.now());
      await pause(3000);
    }
    const slots = () => this.timed("run_time < now()");
    await until(
      "scheduled runs to end",
      async () => {
        const all = await slots();
        return all.length > 0 && all.every((value) => value.state === "done");
      },
      90,
    );
    const found = await slots();
    await this.audit(
      `clock jumps: ${found.length} times, ${new Set(found.map((part) => part.slot)).size} of them different`,
      found.at(-1)?.id,
      { held: new Set(found.map((part) => part.slot)).size === found.length },
    );
    await this.place.save(labFile());
    await setClockOffset(db, 0);
    for (const worker of workers) await this.place.kill(worker);
    this.hour += 24 * 40;
  }

  /** Runs that the schedule of every minute began, by their logical times. */
  private async timed(where: string): Promise<
    readonly {
      readonly slot: string;
      readonly state: string;
      readonly id: string;
      readonly seconds: number;
    }[]
  > {
    return (
      await this.place.context.store.pool.query<{ slot: string; state: string; id: string; seconds: number }>(
        `SELECT slot, state, id, extract(epoch FROM finished_at - started_at)::float8 AS seconds FROM runs WHERE slot LIKE '%minutely%' AND ${where} ORDER BY run_time`,
      )
    ).rows;
  }

  /** Makes every row that is written take so many seconds. */
  private async slowTarget(seconds: number): Promise<void> {
    await this.place.sql(
      `CREATE OR REPLACE FUNCTION public.slowly() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN PERFORM pg_sleep(${seconds}); RETURN NEW; END'; CREATE TRIGGER slowly BEFORE INSERT OR UPDATE ON predictions.lab FOR EACH ROW EXECUTE FUNCTION public.slowly()`,
    );
  }

  async together(): Promise<void> {
    const workers = await Promise.all([this.place.startWorker(), this.place.startWorker()]);
    const runs = await Promise.all([
      this.place.order("train", this.later()),
      this.place.order("score", this.later()),
      this.place.order("train", this.later()),
      this.place.order("score", this.later()),
    ]);
    for (const run of runs) await this.place.ended(run);
    await this.audit("training and scoring at the same time", runs.at(-1));
    for (const worker of workers) await this.place.kill(worker);
  }

  async cancelled(): Promise<void> {
    await this.slowTarget(0.005);
    const worker = await this.place.startWorker();
    const run = await this.place.order("score", this.later());
    await this.place.atStep(run, "move them into the prediction table", 3);
    await pause(500);
    await askCancel(this.place.context.store.db, run);
    await this.place.ended(run);
    await this.place.sql("DROP TRIGGER slowly ON predictions.lab");
    await this.place.kill(worker);
    await this.audit("cancelled during the move", run, { landed: false });
  }

  /** A delivery of many rows, with the memory of the worker and how long it took. */
  async many(rows: number): Promise<string> {
    await this.place.sql(labTable({ table: "lab.many", rows: Math.round(rows * 1.25) }));
    await this.place.sql(
      "UPDATE lab.many SET seen = date '2026-06-02', answer = NULL WHERE id % 5 > 0 AND id > 20000",
    );
    const worker = await this.place.startWorker();
    await this.place.save(
      labFile({
        name: "many",
        from: "lab.many",
        delivery: "{name: desk, table: predictions.many, mode: upsert, columns: [site]}",
      }),
    );
    await this.place.ended(await this.place.order("train", "2026-06-30T12:00:00Z", "many"), 900);
    await this.place.serveNewest("many");
    const before = this.place.memoryOf(worker);
    let most = before;
    const watch = setInterval(() => {
      most = Math.max(most, this.place.memoryOf(worker));
    }, 100);
    const run = await this.place.order("score", "2026-06-30T13:00:00Z", "many");
    const end = await this.place.ended(run, 1800);
    clearInterval(watch);
    const [found] = await this.place.sql(
      `SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys, (SELECT count(*)::int FROM lab.many WHERE answer IS NULL) AS wanted, (SELECT rows::int FROM predictions.ravlen_ledger WHERE run_id = '${run}') AS ledger FROM predictions.many`,
    );
    this.results.push({
      fault: `${formatNumber(Number(found!["wanted"]))} rows delivered`,
      ended: `${end.state}, attempt ${end.attempt}`,
      lost: Number(found!["wanted"]) - Number(found!["keys"]),
      doubled: Number(found!["rows"]) - Number(found!["keys"]),
      ledger: found!["ledger"] === found!["rows"],
      scratch: (await this.place.leftovers()).length,
      held: true,
    });
    const { steps } = await runRecord(this.place.context.store.db, run);
    const slowest = [...steps]
      .map((step) => ({
        name: step.name,
        seconds: ((step.finishedAt?.getTime() ?? 0) - step.startedAt.getTime()) / 1000,
      }))
      .sort((left, right) => right.seconds - left.seconds)
      .slice(0, 4);
    await this.place.kill(worker);
    return `${formatNumber((end.finishedAt!.getTime() - end.startedAt!.getTime()) / 1000)} s; worker memory ${formatNumber(before / 1e6)} MB before and at peak ${formatNumber(most / 1e6)} MB while it ran; ${slowest.map((item) => `${item.name} ${formatNumber(item.seconds)} s`).join(", ")}`;
  }
}
