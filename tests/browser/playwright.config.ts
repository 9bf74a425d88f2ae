import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  globalSetup: "./worlds.ts",
  workers: 2,
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
