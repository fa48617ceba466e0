import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { appContext } from "@/server/context";
import { holdoutOf, isOutput } from "@/server/holdout";
import { problemResponse } from "@/server/pipelines";
import { whole } from "@/server/tables";
import { modelById } from "@/store/models";
import { pageOfTable } from "@/warehouse/sample";

/** Rows of a version's scored holdout. */
export async function GET(
  request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const { store, warehouse } = await appContext();
  const model = await modelById(store.db, Number((await params).id) || 0);
  const table = model && (await holdoutOf(warehouse, model));
  if (!table)
    return problemResponse(
      [
        problem(
          "holdout_gone",
          "The scored holdout of this version is no longer kept.",
          "Train again to get a fresh one.",
        ),
      ],
      404,
    );
  const column = query.get("order");
  try {
    return Response.json(
      await pageOfTable(warehouse, table, {
        offset: whole(query.get("offset"), 0, 1e9),
        limit: whole(query.get("limit"), 100, 500),
        orderBy: {
          column: column ?? table.columns.find((each) => isOutput(each.name))?.name ?? table.columns[0]!.name,
          descending: column === null || query.get("descending") === "true",
        },
      }),
    );
  } catch (error) {
    return problemResponse(problemsOf(error), 500);
  }
}
