import { problem, ProblemError } from "@/core/problem";
import { errorText, isConnectionLoss, problemsOf } from "./failure";

const coded = (code: string, message = "something"): Error => Object.assign(new Error(message), { code });

test.each([
  [coded("57P01", "terminating connection due to administrator command"), true],
  [coded("57P03", "the database system is shutting down"), true],
  [coded("ECONNREFUSED"), true],
  [coded("ECONNRESET"), true],
  [new Error("Connection terminated unexpectedly"), true],
  [new Error("timeout exceeded when trying to connect"), true],
  [new Error("Failed query: select 1", { cause: coded("57P01") }), true],
  [coded("42P01", "relation does not exist"), false],
  [coded("57014", "canceling statement due to user request"), false],
  [new Error("no idea"), false],
  ["text", false],
  [undefined, false],
])("%p comes from a database that went away: %p", (error, expected) => {
  expect(isConnectionLoss(error)).toBe(expected);
});

test("a terminal reads what to do, or the error's own words", () => {
  expect(errorText(new ProblemError(problem("a", "It broke.", "Mend it.")))).toBe("It broke. Mend it.");
  expect(errorText(new Error("Failed query: select secret", { cause: coded("ECONNREFUSED") }))).toMatch(
    /^The connection to the database was lost\. Run again/,
  );
  expect(errorText(new Error("There is no pipeline x."))).toBe("There is no pipeline x.");
});

test("problems that were thrown come back as they were", () => {
  const found = problem("one_class", "All rows have the same answer.", "Look at the target.");
  expect(problemsOf(new ProblemError(found))).toEqual([found]);
});

test.each([
  [coded("53100", "could not extend file"), "warehouse_error", /disk is full/],
  [coded("22012", "division by zero"), "warehouse_error", /nullif/],
  [coded("42501", "permission denied for table x"), "warehouse_error", /lacks a privilege/],
  [coded("XX000", "odd"), "warehouse_error", /in the run's record/],
  [
    new Error("Failed query: insert", { cause: coded("53100", "no space left") }),
    "warehouse_error",
    /disk is full/,
  ],
  [coded("53400", "temporary file size exceeds"), "warehouse_error", /temporary disk/],
  [coded("08006"), "warehouse_lost", /Nothing was partially written/],
  [new Error("surprise"), "unexpected", /report it/],
])("%p is said in words, with what to do", (error, code, hint) => {
  const [found] = problemsOf(error);
  expect(found).toMatchObject({ code, severity: "error" });
  expect(found!.hint).toMatch(hint);
});
