import { answerAboutTable } from "@/server/table-request";
import { againstTarget } from "@/warehouse/relate-columns";

export const GET = (request: Request): Promise<Response> =>
  answerAboutTable(request, ["target"], (warehouse, table, [target]) =>
    againstTarget(warehouse, table, target!),
  );
