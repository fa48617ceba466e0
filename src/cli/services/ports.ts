import { createServer, type Server } from "node:net";

/** Ports that are tried above the one that is wanted. */
const TRIED = 200;

/** The code that the system gives an error, such as EADDRINUSE. */
export const codeOf = (error: unknown): string | undefined => (error as { readonly code?: string }).code;

function listen(server: Server, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once("error", reject);
    server.listen({ port, host: "127.0.0.1", exclusive: true }, () => {
      server.off("error", reject);
      resolve();
    });
  });
}

/**
 * Lets a server listen on loopback, at the wanted port or at the next one above it that nobody has. What listens has its port: a port
 * that was only found free may be somebody else's a moment later.
 * @returns the port
 */
export async function listenFrom(server: Server, wanted: number): Promise<number> {
  for (let port = wanted; port < wanted + TRIED; port += 1) {
    try {
      await listen(server, port);
      return port;
    } catch (error) {
      if (codeOf(error) !== "EADDRINUSE") throw error;
    }
  }
  throw new Error(`no free port between ${wanted} and ${wanted + TRIED - 1}`);
}

/** A port on loopback that is free just now, the wanted one or the next above it, for programs that take one by number. */
export async function freePort(wanted: number): Promise<number> {
  const probe = createServer();
  const port = await listenFrom(probe, wanted);
  await new Promise((resolve) => probe.close(resolve));
  return port;
}
