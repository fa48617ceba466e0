import { appContext } from "@/server/context";
import { tableFromNames } from "@/server/tables";
import { problemsOf } from "@/runs/failure";
import { profileColumn } from "@/warehouse/profile";

export async function GET(request: Request): Promise<Response> {
  const query = new URL(request.url).searchParams;
  const { warehouse } = await appContext();
  const table = await tableFromNames(warehouse, query.get("schema"), query.get("table"));
  const column = table?.columns.find((each) => each.name === query.get("column"));
  if (!table || !column) return Response.json({ problems: [{ message: "There is no such column." }] }, { status: 404 });
  try {
    return Response.json(await profileColumn(warehouse, table, column));
  } catch (error) {
    return Response.json({ problems: problemsOf(error) }, { status: 500 });
  }
}
