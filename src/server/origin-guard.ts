import type { IncomingMessage } from "node:http";

const SAFE_METHODS = new Set(["GET", "HEAD", "OPTIONS"]);

/** Host names under which a server on loopback may be addressed. Any other name is somebody else's page pointing here. */
function isLoopbackHost(host: string | undefined, port: number): boolean {
  return (
    host !== undefined &&
    [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`].includes(host.toLowerCase())
  );
}

/**
 * Whether a request may be answered, and if not, why. Until there are accounts, this stands between the server
 * and pages of other origins in the same browser: the Host must be loopback, and a change must come from our own pages.
 */
export function refusal(
  request: Pick<IncomingMessage, "method" | "headers">,
  port: number,
): string | undefined {
  if (!isLoopbackHost(request.headers.host, port)) return "This server answers on loopback only.";
  if (SAFE_METHODS.has(request.method ?? "GET")) return undefined;
  const { origin } = request.headers;
  const site = request.headers["sec-fetch-site"];
  if (origin === undefined || !isLoopbackHost(origin.replace(/^http:\/\//, ""), port))
    return "A change must come from Ravlen's own pages.";
  if (site !== undefined && site !== "same-origin") return "A change must come from Ravlen's own pages.";
  return undefined;
}
