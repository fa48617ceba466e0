import { z } from "zod";
import { openJudged, type JudgedVersion } from "@/runs/judging/judged-table";
import type { Warehouse } from "@/warehouse/warehouse";
import { idText } from "./answer/inputs";
import { route } from "./answer/route";
import { appContext } from "./context";

/** A route that answers a question about the judged rows of the version in its path. */
export function judgedRoute<Query extends z.ZodType = z.ZodUnknown, Body extends z.ZodType = z.ZodUnknown>(
  inputs: { readonly query?: Query; readonly body?: Body },
  ask: (
    warehouse: Warehouse,
    judged: JudgedVersion,
    asked: { readonly query: z.output<Query>; readonly body: z.output<Body> },
  ) => Promise<unknown>,
) {
  return route({ ...inputs, params: z.object({ id: idText }) }, async ({ params, query, body }) => {
    const context = await appContext();
    return ask(context.warehouse, await openJudged(context, params.id), { query, body });
  });
}
