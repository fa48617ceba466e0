import { route } from "@/server/answer/route";
import { appContext } from "@/server/context";
import { knownTable, profileState, tableInput } from "@/server/tables";
import { listTableFacts } from "@/store/table-facts";

/** The kept profile of a table with its time, and whether a newer one is being taken. */
export const GET = route({ query: tableInput }, async ({ query }) => {
  const { warehouse, store } = await appContext();
  const [facts] = await listTableFacts(store.db, await knownTable(warehouse, query));
  return profileState(facts);
});
