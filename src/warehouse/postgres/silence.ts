import pg from "pg";
import type { WarehouseLogin } from "../port/engine";

/** A statement that waits for so long is a reason to ask whether the server still answers, in milliseconds. */
const PATIENCE = 10_000;
/** How long a server may take for the least of all questions. */
const PROBE = 5_000;
/** Questions without an answer, one after the other, after which a server counts as silent. */
const MOST_UNANSWERED = 2;

/** Thrown into what waits for a server that has fallen silent. */
export class SilentError extends Error {
  readonly code = "ETIMEDOUT";

  constructor() {
    super("the warehouse does not respond");
    this.name = "SilentError";
  }
}

/** A client of the driver with what it does not declare: whether it waits for an answer, and its socket. */
interface Wire {
  readonly readyForQuery: boolean | null;
  readonly connection: { readonly stream: { readonly destroy: (error: Error) => void } };
}

const wireOf = (client: pg.PoolClient): Wire => client as unknown as Wire;

/**
 * Finds out when a server has fallen silent: its machine is gone, or the way to it, so that no connection ever
 * ends. While a statement waits long, the server is asked the least of all questions on a connection of its own;
 * a statement may take as long as it likes as long as that is answered. Once it is not, whoever waits is told
 * so, and nobody begins to wait, until it answers again.
 */
export class SilenceWatch {
  private readonly taken = new Map<pg.PoolClient, number | undefined>();
  private unanswered = 0;
  private probing: Promise<boolean> | undefined;
  private readonly timer: NodeJS.Timeout;

  /**
   * @param most milliseconds after which a statement has been given up by the server itself
   * @param patience milliseconds that a statement waits before the server is asked
   */
  constructor(
    private readonly login: WarehouseLogin,
    private readonly most: number,
    private readonly patience = PATIENCE,
  ) {
    this.timer = setInterval(() => void this.look(), Math.max(50, patience / 4));
    this.timer.unref();
  }

  /** Looks after the connections of a pool. */
  over(pool: pg.Pool): void {
    // A connection that breaks while somebody has it must end what it does, not the process.
    pool.on("connect", (client) => client.on("error", () => undefined));
    pool.on("acquire", (client) => this.taken.set(client, undefined));
    pool.on("release", (_error, client) => this.taken.delete(client));
    pool.on("remove", (client) => this.taken.delete(client));
  }

  /** Whether the server was silent when it was asked last. */
  get silent(): boolean {
    return this.unanswered >= MOST_UNANSWERED;
  }

  /** Refuses to begin to wait for a server that is known to be silent. */
  private check(): void {
    if (this.silent) throw new SilentError();
  }

  /** A connection that is looked after; one that could not be had is a reason to ask the server. */
  async connect(pool: pg.Pool): Promise<pg.PoolClient> {
    this.check();
    try {
      return await pool.connect();
    } catch (error) {
      this.unanswered = Math.max(1, this.unanswered);
      throw error;
    }
  }

  /** Asks the server whether it is there. */
  answers(): Promise<boolean> {
    this.probing ??= this.probe().finally(() => {
      this.probing = undefined;
    });
    return this.probing;
  }

  end(): void {
    clearInterval(this.timer);
  }

  private async look(): Promise<void> {
    const now = Date.now();
    let longest = 0;
    for (const [client, since] of this.taken) {
      const waits = wireOf(client).readyForQuery === false;
      this.taken.set(client, waits ? (since ?? now) : undefined);
      if (waits && since !== undefined) longest = Math.max(longest, now - since);
    }
    if (longest > this.most) this.giveUp(now - this.most);
    if (this.probing !== undefined || (longest < this.patience && this.unanswered === 0)) return;
    this.unanswered = (await this.answers()) ? 0 : this.unanswered + 1;
    if (this.silent) this.giveUp(now);
  }

  /** Tells everybody who has waited since before a moment that no answer comes. */
  private giveUp(before: number): void {
    for (const [client, since] of this.taken)
      if (since !== undefined && since <= before) wireOf(client).connection.stream.destroy(new SilentError());
  }

  private async probe(): Promise<boolean> {
    const limit = Math.min(PROBE, this.patience);
    const client = new pg.Client({
      ...this.login,
      application_name: "ravlen probe",
      connectionTimeoutMillis: limit,
      query_timeout: limit,
    });
    client.on("error", () => undefined);
    try {
      await client.connect();
      await client.query("SELECT 1");
      return true;
    } catch (error) {
      // A server that refuses has answered.
      return error instanceof pg.DatabaseError;
    } finally {
      void client.end().catch(() => undefined);
    }
  }
}
