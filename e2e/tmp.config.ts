import { defineConfig } from "@playwright/test";
import { CHROMIUM } from "../testing/chromium";

export default defineConfig({
  testDir: ".",
  timeout: 600_000,
  // A shared machine stands still for half a minute at times, and has at others a tenth of its speed.
  expect: { timeout: 15_000 },
  // The tests of a project are one working day on one installation, in this order.
  projects: [
    {
      name: "operating",
      testMatch: /\/(?:[123489]-.*|task-number)\.spec\.ts/,
      outputDir: "../test-results/operating",
    },
    {
      name: "building",
      testMatch: /task-y\.spec\.ts/,
      outputDir: "../test-results/building",
    },
  ],
  workers: 1,
  fullyParallel: false,
  reporter: [["list"], ["json"]],
  use: {
    baseURL: process.env["RAVLEN_URL"] ?? "http://127.0.0.1:4380",
    viewport: { width: 1280, height: 800 },
    actionTimeout: 15_000,
    launchOptions: CHROMIUM,
  },
});
