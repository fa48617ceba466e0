import { answerAboutTable } from "@/server/table-request";
import { listTableFacts } from "@/store/table-facts";
import { appContext } from "@/server/context";

/** The kept profile of a table with its time, and whether a newer one is under way. */
export const GET = (request: Request): Promise<Response> =>
  answerAboutTable(request, [], async (_warehouse, table) => {
    const [facts] = await listTableFacts((await appContext()).store.db, table);
    const asked = facts?.profileAskedAt ?? null;
    return {
      profile: facts?.profile ?? null,
      profiledAt: facts?.profiledAt ?? null,
      problem: facts?.profileProblem ?? null,
      refreshHours: facts?.refreshHours ?? null,
      underWay:
        asked !== null &&
        !facts?.profileProblem &&
        (facts?.profiledAt === null || facts === undefined || facts.profiledAt! < asked),
    };
  });
