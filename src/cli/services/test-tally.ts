import { existsSync, readFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";

/** Tests of a part that passed, and the names of those that failed. */
export interface Tally {
  readonly passed: number;
  readonly failures: readonly string[];
}

export const EMPTY_TALLY: Tally = { passed: 0, failures: [] };

export const addTallies = (left: Tally, right: Tally): Tally => ({
  passed: left.passed + right.passed,
  failures: [...left.failures, ...right.failures],
});

/** A part that is one check, by the exit code of its program. */
export const tallyOf = (name: string, code: number): Tally =>
  code === 0 ? { passed: 1, failures: [] } : { passed: 0, failures: [name] };

/** A program that failed without a test that failed broke as a whole. */
export const orBroken = (tally: Tally, name: string, code: number): Tally =>
  code !== 0 && tally.failures.length === 0 ? { ...tally, failures: [name] } : tally;

const unitReport = z.object({
  numPassedTests: z.number(),
  testResults: z.array(
    z.object({
      name: z.string(),
      status: z.string(),
      assertionResults: z.array(z.object({ status: z.string(), fullName: z.string() })),
    }),
  ),
});

/**
 * Reads the report that the unit tests wrote. A report that was never written means that the part broke.
 * @param name of the part
 */
export function unitTally(file: string, name: string): Tally {
  if (!existsSync(file)) return tallyOf(name, 1);
  const { numPassedTests, testResults } = unitReport.parse(JSON.parse(readFileSync(file, "utf8")));
  const failures = testResults.flatMap((suite) => {
    const failed = suite.assertionResults.filter((test) => test.status === "failed");
    const source = path.relative(process.cwd(), suite.name);
    const names = failed.map((test) => `${source}: ${test.fullName}`);
    return suite.status === "failed" && names.length === 0 ? [source] : names;
  });
  return { passed: numPassedTests, failures };
}

interface BrowserSuite {
  readonly file?: string | undefined;
  readonly specs: readonly { readonly title: string; readonly ok: boolean }[];
  readonly suites?: readonly BrowserSuite[] | undefined;
}
const browserSuite: z.ZodType<BrowserSuite> = z.object({
  file: z.string().optional(),
  specs: z.array(z.object({ title: z.string(), ok: z.boolean() })),
  suites: z.array(z.lazy(() => browserSuite)).optional(),
});
const browserReport = z.object({
  stats: z.object({ expected: z.number(), flaky: z.number() }),
  suites: z.array(browserSuite),
});

const failuresIn = (suite: BrowserSuite): readonly string[] => [
  ...suite.specs.filter((spec) => !spec.ok).map((spec) => `${suite.file ?? "browser"}: ${spec.title}`),
  ...(suite.suites ?? []).flatMap(failuresIn),
];

/** Reads the report that the browser tests wrote; like unitTally. */
export function browserTally(file: string, name: string): Tally {
  if (!existsSync(file)) return tallyOf(name, 1);
  const { stats, suites } = browserReport.parse(JSON.parse(readFileSync(file, "utf8")));
  return { passed: stats.expected + stats.flaky, failures: suites.flatMap(failuresIn) };
}
