import { answerAboutTable } from "@/server/table-request";
import { pairOf } from "@/warehouse/relate-columns";

export const GET = (request: Request): Promise<Response> =>
  answerAboutTable(request, ["x", "y"], (warehouse, table, [x, y]) => pairOf(warehouse, table, x!, y!));
