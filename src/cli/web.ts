import { createServer } from "node:http";
import next from "next";
import pino from "pino";
import { readInstance } from "@/runs/context";
import { refusal } from "@/server/origin-guard";
import { ALIVE_PATH } from "./services/liveness";
import { listenFrom } from "./services/ports";

const log = pino({ name: "ravlen web", level: process.env["RAVLEN_LOG"] ?? "info" });

/** A page that takes longer is not waited for. */
const WARM_MILLISECONDS = 4000;

/**
 * Asks for pages and for a name, so that the first person does not wait for modules, connections and the
 * catalog. What is wrong is said to whoever asks next.
 */
async function warmUp(port: number): Promise<void> {
  for (const path of ["/runs", "/tables", "/api/find?text=warm"])
    await fetch(`http://127.0.0.1:${port}${path}`, { signal: AbortSignal.timeout(WARM_MILLISECONDS) })
      .then((response) => response.arrayBuffer())
      .catch(() => undefined);
}

/** The web server process: Next.js behind a check of Host and Origin, on loopback only. */
async function main(): Promise<void> {
  const instance = readInstance();
  if (!instance) throw new Error("Ravlen is not running here.");
  let port = instance.port;
  const pages: { handle?: ReturnType<ReturnType<typeof next>["getRequestHandler"]> } = {};
  const server = createServer((request, response) => {
    const refused = refusal(request, port);
    if (refused) {
      response.writeHead(403, { "content-type": "text/plain; charset=utf-8" }).end(refused);
      return;
    }
    if (request.url === ALIVE_PATH) {
      response.writeHead(200, { "content-type": "text/plain; charset=utf-8" }).end("alive");
      return;
    }
    response.setHeader("x-frame-options", "DENY");
    response.setHeader("x-content-type-options", "nosniff");
    response.setHeader("referrer-policy", "same-origin");
    if (!pages.handle) {
      response.writeHead(503, { "content-type": "text/plain; charset=utf-8" }).end("Ravlen is starting.");
      return;
    }
    void pages.handle(request, response);
  });
  port = await listenFrom(server, instance.port);
  server.on("error", (error) => {
    log.error({ error: error.message }, "cannot listen");
    process.exit(1);
  });
  const app = next({ dev: false, dir: process.cwd(), hostname: "127.0.0.1", port });
  await app.prepare();
  pages.handle = app.getRequestHandler();
  await warmUp(port);
  log.info({ port }, "ready");
  process.send?.({ port });
  const stop = (): void => process.exit(0);
  process.on("SIGTERM", stop);
  process.on("SIGINT", stop);
  process.on("disconnect", stop);
}

main().catch((error: unknown) => {
  log.error({ error: error instanceof Error ? error.stack : String(error) }, "web server could not start");
  process.exit(1);
});
