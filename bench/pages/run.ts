import { chromium } from "@playwright/test";
import { CHROMIUM } from "../../testing/chromium";
import { TestInstallation } from "../../testing/installation";
import { measureBraid } from "./braid";
import { timesOfClicks, type Click } from "./click";
import { fill, type Amounts } from "./fill";
import type { Measure } from "./limits";
import { timeOfAddress, timesOfFinding } from "./open";

const STAGES = ["brief", "braid", "train", "compare", "deliver", "history"];
const stage = (name: string): string => `/pipelines/lab/${name}`;

/** Links to every main page, each from a page that has it. */
const CLICKS: readonly Click[] = [
  { from: "/runs", to: "/" },
  { from: "/", to: "/tables" },
  { from: "/tables", to: "/tables/" },
  { from: "/", to: "/pipelines" },
  { from: "/pipelines", to: "/pipelines/new" },
  ...STAGES.map((name, index) => ({ from: stage(STAGES[(index + 1) % STAGES.length]!), to: stage(name) })),
  { from: "/", to: "/models" },
  { from: "/models", to: "/models/" },
  { from: "/", to: "/runs" },
  { from: "/runs", to: "/runs/" },
  { from: "/", to: "/health" },
];

export const PARTS = ["addresses", "clicks", "finding", "braid"] as const;
export type Part = (typeof PARTS)[number];

/**
 * Measures the pages of an installation that holds a lot: addresses that are typed, links that are clicked,
 * the command box, and the Braid of a large pipeline. The pages have to be built.
 */
export async function benchPages(
  amounts: Amounts,
  parts: readonly Part[],
  say: (line: string) => void,
): Promise<readonly Measure[]> {
  const place = await TestInstallation.open();
  const browser = await chromium.launch(CHROMIUM);
  try {
    say(`${amounts.tables} tables, ${amounts.pipelines} pipelines, ${amounts.runs} runs`);
    const { run, model } = await fill(place, amounts);
    const addresses = [
      "/",
      "/tables",
      "/tables?q=weight_88",
      "/tables/area_7/readings_6",
      "/tables/import",
      "/pipelines",
      "/pipelines?q=gauge&page=3",
      "/pipelines/new",
      ...STAGES.map(stage),
      "/models",
      "/models?page=5",
      `/models/${model}`,
      "/runs",
      "/runs?page=200",
      `/runs/${run}`,
      "/health",
    ];
    const measures: Record<Part, () => Promise<readonly Measure[]>> = {
      addresses: async () => {
        const results: Measure[] = [];
        for (const address of addresses) {
          say(address);
          results.push(...(await timeOfAddress(place, browser, address)));
        }
        return results;
      },
      clicks: () => timesOfClicks(place, browser, CLICKS),
      finding: () => timesOfFinding(place),
      braid: () => measureBraid(place, browser),
    };
    const results: Measure[] = [];
    for (const part of parts) {
      say(part);
      results.push(...(await measures[part]()));
    }
    return results;
  } finally {
    await browser.close();
    await place.close();
  }
}
