import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  globalSetup: "./worlds.ts",
  workers: 2,
  timeout: 180_000,
  // Fonts and their edges are not the same on every machine; what is out of place is much more than that.
  expect: { timeout: 30_000, toHaveScreenshot: { maxDiffPixelRatio: 0.04, threshold: 0.3 } },
  snapshotPathTemplate: "{testDir}/pictures/{arg}{ext}",
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
