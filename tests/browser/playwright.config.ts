import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  globalSetup: "./worlds.ts",
  workers: 2,
  // On a machine that others load, a step may find its page between two states. What fails is tried once more in a world of
  // its own; should it pass then, it is reported as flaky, which is a race to be mended, in the test or in the console.
  retries: 1,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  outputDir: "../../.test/browser",
  use: {
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "UTC",
    launchOptions: {
      executablePath: process.env.KETTLEFOG_CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--disable-background-networking",
        "--disable-sync",
      ],
    },
  },
});
