import { defineConfig } from "@playwright/test";
import tests from "./playwright.config";

export default defineConfig({
  ...tests,
  testMatch: "figures.ts",
  workers: 1,
  timeout: 180_000,
  reporter: "line",
});
