import { defineConfig } from "@playwright/test";

/** Debian's Chromium, without the calls to the outside that it makes by itself. */
const FLAGS = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];

export default defineConfig({
  testDir: ".",
  outputDir: "../test-results",
  timeout: 300_000,
  // A shared machine stands still for half a minute at times.
  expect: { timeout: 45_000 },
  // The tests are one working day on one installation, in this order.
  workers: 1,
  fullyParallel: false,
  reporter: [["list"], ["json"]],
  use: {
    baseURL: process.env["RAVLEN_URL"] ?? "http://127.0.0.1:4380",
    viewport: { width: 1280, height: 800 },
    actionTimeout: 45_000,
    launchOptions: { executablePath: "/usr/bin/chromium", args: FLAGS },
  },
});
