import type { IncomingMessage } from "node:http";

const SAFE_METHODS = new Set(["GET", "HEAD", "OPTIONS"]);

/** Host names under which a server on loopback may be addressed. Any other name is somebody else's page pointing here. */
function isLoopbackHost(host: string | undefined, port: number): boolean {
  return (
    host !== undefined &&
    [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`].includes(host.toLowerCase())
  );
}

/** Pages may be linked from anywhere; data, which may be large, are for our own pages and for programs alone. */
const refusedReading = (url: string, site: string | string[] | undefined): string | undefined =>
  url.startsWith("/api/") && (site === "cross-site" || site === "same-site")
    ? "Data is served to Ravlen's own pages only."
    : undefined;

/**
 * Whether a request may be answered, and if not, why. Until there are accounts, this stands between the server
 * and pages of other origins in the same browser: the Host must be loopback, and a change must come from our own pages.
 */
export function refusal(
  request: Pick<IncomingMessage, "method" | "headers" | "url">,
  port: number,
): string | undefined {
  if (!isLoopbackHost(request.headers.host, port)) return "This server responds on loopback only.";
  const site = request.headers["sec-fetch-site"];
  if (SAFE_METHODS.has(request.method ?? "GET")) return refusedReading(request.url ?? "", site);
  const { origin } = request.headers;
  if (origin === undefined || !isLoopbackHost(origin.replace(/^http:\/\//, ""), port))
    return "A change must come from Ravlen's own pages.";
  if (site !== undefined && site !== "same-origin") return "A change must come from Ravlen's own pages.";
  return undefined;
}
