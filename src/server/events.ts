import { EventEmitter } from "node:events";
import pg from "pg";
import { readInstance } from "@/runs/context";
import { RUN_CHANNEL } from "@/store/database";

const shared = globalThis as typeof globalThis & { ravlenEvents?: EventEmitter | undefined };
const RECONNECT_MILLISECONDS = 1000;

/** Announcements of changed runs ("run", id), from one listening connection for the whole server. */
export function runEvents(): EventEmitter {
  if (shared.ravlenEvents) return shared.ravlenEvents;
  const events = new EventEmitter();
  events.setMaxListeners(200);
  shared.ravlenEvents = events;
  const listen = (): void => {
    const instance = readInstance();
    if (!instance) return;
    const client = new pg.Client({
      connectionString: instance.databaseUrl,
      application_name: "ravlen events",
    });
    let ended = false;
    const again = (): void => {
      if (ended) return;
      ended = true;
      client.end().catch(() => undefined);
      setTimeout(listen, RECONNECT_MILLISECONDS);
    };
    client.on("error", again);
    client.on("end", again);
    client.on("notification", (message) => void events.emit("run", message.payload ?? ""));
    client
      .connect()
      .then(() => client.query(`LISTEN ${RUN_CHANNEL}`))
      .catch(again);
  };
  listen();
  return events;
}

/** A server-sent event stream of changed runs; ends when the reader goes away. */
export function runEventStream(signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  const events = runEvents();
  return new ReadableStream({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const changed = (id: string): void => send(`event: run\ndata: ${id}\n\n`);
      send("retry: 2000\n\n");
      events.on("run", changed);
      // A line now and then keeps proxies and the browser from giving the connection up.
      const alive = setInterval(() => send(": alive\n\n"), 15_000);
      signal.addEventListener("abort", () => {
        clearInterval(alive);
        events.off("run", changed);
        try {
          controller.close();
        } catch {
          // Already closed by the reader.
        }
      });
    },
  });
}
