import { z } from "zod";
import { idText } from "@/server/answer/inputs";
import { route, unknown } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { holdoutOf, isOutput } from "@/server/holdout";
import { pageInput } from "@/server/tables";
import { modelById } from "@/store/models";
import { pageOfTable } from "@/warehouse/sample";

/** Rows of a version's scored holdout. */
export const GET = route(
  { params: z.object({ id: idText }), query: pageInput },
  async ({ params, query }) => {
    const { store, warehouse } = await appContext();
    const model = await modelById(store.db, params.id);
    const table = model && (await holdoutOf(warehouse, model));
    if (!table)
      throw unknown(
        "holdout_gone",
        "The scored holdout of this version is no longer stored.",
        "Retrain to create a new one.",
      );
    const output = table.columns.find((column) => isOutput(column.name)) ?? table.columns[0]!;
    return pageOfTable(warehouse, table, {
      offset: query.offset,
      limit: query.limit,
      orderBy: {
        column: query.order ?? output.name,
        descending: query.order === undefined || query.descending === "true",
      },
    });
  },
);
