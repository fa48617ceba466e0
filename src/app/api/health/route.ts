import { appContext } from "@/server/context";
import { readHealth } from "@/server/health";

/** For whoever asks whether the server is well: 200 or 503, and what is wrong. */
export async function GET(): Promise<Response> {
  try {
    const { wrong } = await readHealth(await appContext());
    return Response.json({ well: wrong.length === 0, wrong }, { status: wrong.length === 0 ? 200 : 503 });
  } catch {
    return Response.json(
      { well: false, wrong: ["The application database is unreachable."] },
      { status: 503 },
    );
  }
}
