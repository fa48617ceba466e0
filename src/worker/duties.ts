import pino from "pino";
import { errorText } from "@/runs/failure";

const log = pino({ name: "ravlen worker", level: process.env["RAVLEN_LOG"] ?? "info" });

/** Something that a worker does again and again. */
export interface Duty {
  readonly what: string;
  readonly milliseconds: number;
  readonly work: () => Promise<unknown>;
}

/** Does duties, each in its own rhythm and never twice at once: one that takes long or fails holds up none of the others. */
export class Duties {
  private readonly failed = new Map<string, string>();
  private readonly timers: ReturnType<typeof setInterval>[] = [];

  /** Does a duty now, and from now on whenever its time has come and it is not being done. Resolves when it has been done once. */
  start({ what, milliseconds, work }: Duty): Promise<void> {
    let busy = false;
    const look = async (): Promise<void> => {
      if (busy) return;
      busy = true;
      try {
        await work();
        this.failed.delete(what);
      } catch (error) {
        log.warn({ error: String(error) }, `could not ${what}; retrying`);
        this.failed.set(what, errorText(error));
      } finally {
        busy = false;
      }
    };
    this.timers.push(setInterval(() => void look(), milliseconds));
    return look();
  }

  stop(): void {
    this.timers.forEach((timer) => clearInterval(timer));
  }

  /** What could not be done when it was last tried, and why; null when all is well. */
  get trouble(): string | null {
    if (this.failed.size === 0) return null;
    return [...this.failed].map(([what, why]) => `${what} (${why})`).join("; ");
  }
}
