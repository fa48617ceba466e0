import { fork, type ChildProcess } from "node:child_process";
import { closeSync, openSync } from "node:fs";
import path from "node:path";
import { watchLiveness } from "./liveness";

export interface ChildOptions {
  readonly name: string;
  readonly script: string;
  readonly home: string;
  readonly env: Readonly<Record<string, string>>;
  /** Megabytes that its values may take; as many as it needs, when left out. */
  readonly megabytes?: number;
  readonly say: (line: string) => void;
  /** Called when the child is ready, with what else it says then. */
  readonly onReady?: (said: unknown) => void;
  /** An address that the child answers as long as it lives. One that is silent for long is ended, and started again. */
  readonly alive?: () => string;
}

/**
 * A child process that is started again when it dies, with growing pauses, until it is stopped; at once
 * when it ended by itself to begin anew.
 */
export class KeptChild {
  private child: ChildProcess | undefined;
  private stopping = false;
  private deaths = 0;
  private lastEnd: string | undefined;

  constructor(private readonly options: ChildOptions) {}

  get pid(): number | undefined {
    return this.child?.pid;
  }

  /** Starts the child and waits until it says it is ready. */
  start(): Promise<void> {
    const { name, script, home, env, megabytes, say } = this.options;
    return new Promise((resolve, reject) => {
      const output = openSync(path.join(home, `${name}.log`), "a");
      const child = fork(script, [], {
        execArgv: [
          "--import",
          "tsx",
          ...(megabytes === undefined ? [] : [`--max-old-space-size=${megabytes}`]),
        ],
        stdio: ["ignore", output, output, "ipc"],
        // A process that knows how the one before it ended can say what that was working on.
        env: { ...process.env, ...env, ...(this.lastEnd ? { RAVLEN_LAST_END: this.lastEnd } : {}) },
      });
      closeSync(output);
      this.child = child;
      let ready = false;
      child.on("message", (message) => {
        if (ready) return;
        ready = true;
        this.options.onReady?.(message);
        this.watch(child);
        resolve();
      });
      child.once("exit", (code, signal) => {
        if (this.stopping) return;
        if (!ready && this.deaths === 0) {
          reject(
            new Error(`the ${name} did not start (${signal ?? code}); see ${path.join(home, `${name}.log`)}`),
          );
          return;
        }
        if (code === 0) {
          void this.start().catch(() => undefined);
          return;
        }
        this.deaths += 1;
        this.lastEnd = String(signal ?? code);
        const pause = Math.min(30_000, 500 * 2 ** Math.min(this.deaths, 6));
        say(`the ${name} ended (${signal ?? code}); starting it again`);
        setTimeout(() => void (this.stopping ? undefined : this.start().catch(() => undefined)), pause);
      });
      setTimeout(() => {
        if (ready) this.deaths = 0;
      }, 60_000).unref();
    });
  }

  private watch(child: ChildProcess): void {
    const { name, alive, say } = this.options;
    if (alive === undefined) return;
    const unwatch = watchLiveness(alive(), () => {
      say(`the ${name} stopped responding; restarting it`);
      child.kill("SIGKILL");
    });
    child.once("exit", unwatch);
  }

  stop(): Promise<void> {
    this.stopping = true;
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
    return new Promise((resolve) => {
      const force = setTimeout(() => child.kill("SIGKILL"), 8000);
      child.once("exit", () => {
        clearTimeout(force);
        resolve();
      });
      child.kill("SIGTERM");
    });
  }
}
