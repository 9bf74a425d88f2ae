import { defineConfig } from "@lingui/cli";
import { formatter } from "@lingui/format-po";

/** The texts of the console: those in its sources are English, and a catalogue for each language holds them all. */
export default defineConfig({
  sourceLocale: "en",
  locales: ["en"],
  catalogs: [
    { path: "<rootDir>/src/locales/{locale}", include: ["src"], exclude: ["**/*.test.*", "**/test-*"] },
  ],
  format: formatter({ lineNumbers: false, printPlaceholdersInComments: false }),
  orderBy: "message",
});
