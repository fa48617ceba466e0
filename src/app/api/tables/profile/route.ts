import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, tableInput } from "@/server/tables";
import { listTableFacts } from "@/store/table-facts";

/** The kept profile of a table with its time, and whether a newer one is under way. */
export const GET = route({ query: tableInput }, async ({ query }) => {
  const { warehouse, store } = await appContext();
  const [facts] = await listTableFacts(store.db, await knownTable(warehouse, query));
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
