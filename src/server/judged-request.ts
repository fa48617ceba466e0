import { z } from "zod";
import { JUDGED_PARTS } from "@/core/evaluate/judged-part";
import { unwrap } from "@/core/problem";
import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { idText } from "./answer/inputs";
import { readInput } from "./answer/read-input";
import { route } from "./answer/route";
import { appContext } from "./context";

/** Which of the version's rows are meant: those that judge when nothing is said. */
const partInput = z.object({ part: z.enum(JUDGED_PARTS).optional() });

/** A route that answers a question about the scored rows of the version in its path, of the part that ?part names. */
export function judgedRoute<Query extends z.ZodType = z.ZodUnknown, Body extends z.ZodType = z.ZodUnknown>(
  inputs: { readonly query?: Query; readonly body?: Body },
  ask: (
    warehouse: Warehouse,
    judged: JudgedVersion,
    asked: { readonly query: z.output<Query>; readonly body: z.output<Body> },
  ) => Promise<unknown>,
) {
  return route({ ...inputs, params: z.object({ id: idText }) }, async ({ params, query, body, request }) => {
    const context = await appContext();
    const asked = Object.fromEntries(new URL(request.url).searchParams);
    const { part } = unwrap(readInput(partInput, asked));
    return ask(context.warehouse, await openJudged(context, params.id, part), { query, body });
  });
}
