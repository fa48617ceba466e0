import pino from "pino";
import type { Pass } from "@/core/learn/watch";
import { describeProblem, type Problem } from "@/core/problem";
import { announceRun, type Store } from "@/store/database";
import {
  addLog,
  addPasses,
  addStatement,
  addStep,
  endStep,
  type RunLiveness,
  type RunRow,
} from "@/store/runs";
import type { RunProgress } from "@/store/schema";
import type { StatementRecord } from "@/warehouse/port/session";
import { letThrough, type Pace } from "./pace";

/** Thrown where a run was asked to stop; ends it as cancelled, not failed. */
export class Cancelled extends Error {
  constructor() {
    super("cancelled");
    this.name = "Cancelled";
  }
}

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });

/** Milliseconds between two writings of passes. */
const BETWEEN_PASSES = 200;

/**
 * Writes down what a run does while it does it: steps, statements, passes and log lines,
 * and announces each change to whoever is watching.
 */
export class RunRecorder implements Pace {
  private position = 0;
  private step: { readonly id: number } | undefined;
  private readonly pending: Promise<unknown>[] = [];
  private readonly passes: Parameters<typeof addPasses>[1][number][] = [];
  private passesWritten = -Infinity;
  private movedAt = performance.now();
  private come: RunProgress | null = null;
  cancelled = false;
  /** Why the run is given up, once it is. */
  givenUp: Error | undefined;

  constructor(
    private readonly store: Store,
    readonly run: RunRow,
  ) {}

  /** Called for every statement of the run's session. */
  readonly statement = (record: StatementRecord): void => {
    this.goesOn();
    const { step } = this;
    if (!step) return;
    const saved = addStatement(this.store.db, { runId: this.run.id, stepId: step.id, ...record });
    this.pending.push(
      saved.catch((error: unknown) =>
        log.error({ run: this.run.id, error: String(error) }, "a statement could not be recorded"),
      ),
    );
  };

  /** Does one named step. What it returns is kept with it: rows touched, and a line on what came out. */
  async doing<T>(
    name: string,
    work: () => Promise<{ readonly value: T; readonly rows?: number; readonly detail?: string }>,
  ): Promise<T> {
    this.stopIfAsked();
    this.position += 1;
    const step = await addStep(this.store.db, {
      runId: this.run.id,
      position: this.position,
      attempt: this.run.attempt,
      name,
    });
    this.step = step;
    this.come = null;
    this.goesOn();
    await this.announce();
    try {
      const { value, rows, detail } = await work();
      await this.settle();
      await endStep(this.store.db, step.id, { state: "done", rows, detail });
      await this.announce();
      return value;
    } catch (error) {
      await this.settle();
      await endStep(this.store.db, step.id, { state: this.cancelled ? "cancelled" : "failed" }).catch(
        () => undefined,
      );
      throw this.cancelled ? new Cancelled() : error;
    }
  }

  readonly stopIfAsked = (): void => {
    if (this.cancelled) throw new Cancelled();
    if (this.givenUp) throw this.givenUp;
  };

  readonly goesOn = (): void => {
    this.movedAt = performance.now();
  };

  readonly breathe = async (): Promise<void> => {
    await letThrough();
    this.goesOn();
    this.stopIfAsked();
  };

  readonly progress = (what: string, done: number, of: number): void => {
    this.come = { what, done, of };
    this.goesOn();
  };

  /** How far the step has come, where that is counted, and for how many seconds nothing has moved. */
  get liveness(): RunLiveness {
    return { progress: this.come, stillFor: (performance.now() - this.movedAt) / 1000 };
  }

  async say(level: "info" | "warning" | "error", message: string): Promise<void> {
    log[level === "warning" ? "warn" : level]({ run: this.run.id }, message);
    await addLog(this.store.db, this.run.id, level, message);
    await this.announce();
  }

  async warn(problems: readonly Problem[]): Promise<void> {
    for (const problem of problems) await this.say("warning", describeProblem(problem));
  }

  /** Passes may follow each other within milliseconds, so several are written down together. */
  async pass(pass: Pass): Promise<void> {
    this.stopIfAsked();
    this.goesOn();
    this.passes.push({ runId: this.run.id, attempt: this.run.attempt, ...pass });
    if (performance.now() - this.passesWritten > BETWEEN_PASSES) await this.writePasses();
  }

  private async writePasses(): Promise<void> {
    this.passesWritten = performance.now();
    const written = this.passes.splice(0);
    if (written.length === 0) return;
    await addPasses(this.store.db, written);
    await this.announce();
  }

  announce(): Promise<void> {
    return announceRun(this.store, this.run.id);
  }

  private async settle(): Promise<void> {
    await this.writePasses();
    await Promise.all(this.pending.splice(0));
  }
}
