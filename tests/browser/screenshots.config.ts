import { defineConfig } from "@playwright/test";
import tests from "./playwright.config";

/** Makes the pictures in docs/screenshots anew; see scripts/screenshots.sh. */
export default defineConfig({ ...tests, testMatch: "screenshots.ts", timeout: 120_000 });
