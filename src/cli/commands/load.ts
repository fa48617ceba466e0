import type { Command } from "commander";
import { formatNumber } from "@/core/format/numbers";
import { homeFolder } from "@/runs/context";
import type { LoadResult } from "../../../bench/load/run";
import { columnsOfText, print } from "../output";
import { runningInstance, say } from "../services/installation";
import { adminLogin } from "../services/postgres";
import { withContext } from "./client";

const DEMO_PIPELINE = "uncollected-72h";
/** Of the memory that a process had when it was warm, this much more may stay. */
const MOST_MORE = 1.2;

interface LoadFlags {
  readonly requests: string;
  readonly people: string;
  readonly minutes: string;
  readonly days: string;
  readonly json: boolean;
}

function countOf(flag: string, text: string, most: number): number {
  const value = Number(text);
  if (!(value >= 0 && value <= most))
    throw new Error(`--${flag} ${text} is not a number from 0 to ${formatNumber(most)}.`);
  return value;
}

const seconds = (value: number): string => `${formatNumber(value)} s`;
const megabytes = (value: number): string => `${formatNumber(Math.round(value))} MB`;

function tablesOf({ crowds, met, beside, memory, days }: LoadResult): string {
  const parts = [
    columnsOfText([
      ["address", "requests", "failed", "alone", "slowest", "at most"],
      ...crowds.map((crowd) => [
        crowd.address,
        formatNumber(crowd.requests),
        formatNumber(crowd.failed),
        seconds(crowd.alone),
        seconds(crowd.slowest),
        seconds(crowd.most),
      ]),
    ]),
  ];
  if (met)
    parts.push(
      `${met.people} people: ${formatNumber(met.rounds)} rounds, ${formatNumber(met.answers)} answers, ${met.failures.length} failures`,
      ...met.failures.slice(0, 10),
      beside.join("; "),
      columnsOfText([
        ["process", "warm", "a minute after", "handles", "after"],
        ...memory.map((sample) => [
          sample.name,
          megabytes(sample.warm),
          megabytes(sample.after),
          formatNumber(sample.handlesWarm),
          formatNumber(sample.handlesAfter),
        ]),
      ]),
    );
  if (days)
    parts.push(
      columnsOfText([
        [`${days.passed} days`, "memory", "handles", "connections", "scratch tables", "files"],
        ...(["before", "after"] as const).map((when) => [
          when,
          megabytes(days[when].megabytes),
          ...[days[when].handles, days[when].connections, days[when].scratchTables, days[when].files].map(
            (value) => formatNumber(value),
          ),
        ]),
      ]),
    );
  return parts.join("\n");
}

const isGood = ({ crowds, met, memory }: LoadResult): boolean =>
  crowds.every((crowd) => crowd.failed === 0 && crowd.slowest <= crowd.most) &&
  (met?.failures.length ?? 0) === 0 &&
  memory.every((sample) => sample.after <= MOST_MORE * sample.warm);

/** load: what a running demo bears. */
export function addLoadCommand(program: Command): void {
  program
    .command("load")
    .option("--requests <n>", "parallel requests for each of three pages", "100")
    .option("--people <n>", "simulated users; 0 for none", "20")
    .option("--minutes <n>", "duration", "5")
    .option("--days <n>", "days to advance the demo clock afterwards", "0")
    .option("--json", "print JSON", false)
    .description("load-test the running demo with requests, users and days")
    .action((flags: LoadFlags) =>
      withContext(async (context) => {
        const home = homeFolder();
        const instance = runningInstance(home);
        if (!instance) throw new Error("Start the demo first: ./ravlen demo.");
        const wishes = {
          requests: countOf("requests", flags.requests, 1000),
          people: countOf("people", flags.people, 100),
          minutes: countOf("minutes", flags.minutes, 60),
          days: countOf("days", flags.days, 1000),
        };
        const { runLoad } = await import("../../../bench/load/run");
        const result = await runLoad(
          {
            context,
            instance,
            home,
            say,
            pipeline: DEMO_PIPELINE,
            admin: adminLogin(home, instance.databasePort),
          },
          wishes,
        );
        print(flags.json, result, () => tablesOf(result));
        if (!isGood(result)) process.exitCode = 1;
      }),
    );
}
