import { appContext } from "@/server/context";
import { tableFromNames, whole } from "@/server/tables";
import { problemsOf } from "@/runs/failure";
import { pageOfTable } from "@/warehouse/sample";

export async function GET(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const { warehouse } = await appContext();
  const table = await tableFromNames(warehouse, query.get("schema"), query.get("table"));
  if (!table) return Response.json({ problems: [{ message: "There is no such table." }] }, { status: 404 });
  const column = query.get("order");
  try {
    const page = await pageOfTable(warehouse, table, {
      offset: whole(query.get("offset"), 0, 1e9),
      limit: whole(query.get("limit"), 100, 500),
      orderBy: column ? { column, descending: query.get("descending") === "true" } : undefined,
    });
    return Response.json(page);
  } catch (error) {
    return Response.json({ problems: problemsOf(error) }, { status: 500 });
  }
}
