import { runEventStream } from "@/server/events";

export const dynamic = "force-dynamic";

export function GET(request: Request): Response {
  return new Response(runEventStream(request.signal), {
    headers: { "content-type": "text/event-stream", "cache-control": "no-store" },
  });
}
