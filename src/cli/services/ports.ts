import { createServer } from "node:net";

function isFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once("error", () => resolve(false));
    probe.listen({ port, host: "127.0.0.1", exclusive: true }, () => probe.close(() => resolve(true)));
  });
}

/** The wanted port on loopback, or the next free one above it. */
export async function freePort(wanted: number): Promise<number> {
  for (let port = wanted; port < wanted + 200; port += 1) if (await isFree(port)) return port;
  throw new Error(`no free port between ${wanted} and ${wanted + 199}`);
}
