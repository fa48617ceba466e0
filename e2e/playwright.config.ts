import { defineConfig } from "@playwright/test";
import { CHROMIUM } from "../testing/chromium";

export default defineConfig({
  testDir: ".",
  outputDir: "../test-results",
  timeout: 600_000,
  // A shared machine stands still for half a minute at times, and has at others a tenth of its speed.
  expect: { timeout: 120_000 },
  // The tests are one working day on one installation, in this order.
  workers: 1,
  fullyParallel: false,
  reporter: [["list"], ["json"]],
  use: {
    baseURL: process.env["RAVLEN_URL"] ?? "http://127.0.0.1:4380",
    viewport: { width: 1280, height: 800 },
    actionTimeout: 120_000,
    launchOptions: CHROMIUM,
  },
});
