import type { Client, Connection, Submittable } from "pg";

/** First bytes of the server's messages (PostgreSQL's frontend/backend protocol, "Message Formats"). */
const COPY_DATA = 0x64;
const COPY_DONE = 0x63;
/**
 * May come among the data, and say nothing about them: the answer to COPY, notices, notifications, changed
 * settings.
 */
const BESIDES = new Set([0x48, 0x4e, 0x41, 0x53]);
/** A message's kind and length. */
const HEAD = 5;

type DataListener = (chunk: Buffer) => void;

/**
 * A COPY to this side whose data are read where they arrive in memory. The server sends each row as a message of
 * its own, and a stream of a million small pieces would take longer than the work on them.
 */
class CopyOut implements Submittable {
  readonly done: Promise<void>;
  private finish: () => void = () => undefined;
  private fail: (error: unknown) => void = () => undefined;
  private rest: Buffer = Buffer.alloc(0);

  constructor(
    private readonly text: string,
    private readonly take: (view: DataView, from: number, to: number) => void,
  ) {
    this.done = new Promise((resolve, reject) => {
      this.finish = resolve;
      this.fail = reject;
    });
  }

  submit(connection: Connection): void {
    const { stream } = connection;
    const [driver] = stream.listeners("data") as DataListener[];
    if (!driver) throw new Error("the driver does not listen to this connection");
    const own = (chunk: Buffer): void => {
      const left = this.read(chunk);
      if (left === undefined) return;
      stream.off("data", own);
      stream.on("data", driver);
      driver(left);
    };
    stream.off("data", driver);
    stream.on("data", own);
    connection.query(this.text);
  }

  /** Reads messages. @returns what the driver has to read when the data are at their end, or something went wrong */
  private read(chunk: Buffer): Buffer | undefined {
    const data = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk]);
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    let at = 0;
    while (at + HEAD <= data.length) {
      const kind = data[at]!;
      const end = at + 1 + view.getInt32(at + 1);
      if (kind !== COPY_DATA && kind !== COPY_DONE && !BESIDES.has(kind)) return data.subarray(at);
      if (end > data.length) break;
      if (kind === COPY_DONE) return data.subarray(end);
      if (kind === COPY_DATA) {
        try {
          this.take(view, at + HEAD, end);
        } catch (error) {
          this.fail(error);
        }
      }
      at = end;
    }
    this.rest = data.subarray(at);
    return undefined;
  }

  /** Called by the driver. */
  handleError(error: unknown): void {
    this.fail(error);
  }

  handleCommandComplete(): void {
    // How many rows there were is counted where they are read.
  }

  handleReadyForQuery(): void {
    this.finish();
  }
}

/**
 * Runs a COPY ... TO STDOUT.
 * @param take is given each message's data: bytes `from` up to, not including, `to` of the view
 * @throws what the server or `take` says
 */
export async function copyOut(
  client: Pick<Client, "query">,
  sql: string,
  take: (view: DataView, from: number, to: number) => void,
): Promise<void> {
  await client.query(new CopyOut(sql, take)).done;
}
