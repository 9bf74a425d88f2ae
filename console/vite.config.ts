import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { lingui } from "@lingui/vite-plugin";
import babel from "@rolldown/plugin-babel";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";

/** Leaves a copy of each script and style beside it, compressed as well as can be; the service sends it to whoever takes it. */
const compressed: Plugin = {
  name: "compressed",
  apply: "build",
  writeBundle({ dir = "" }, bundle) {
    for (const name of Object.keys(bundle).filter((each) => /\.(js|css)$/.test(each)))
      writeFileSync(join(dir, `${name}.br`), brotliCompressSync(readFileSync(join(dir, name))));
  },
};

export default defineConfig({
  plugins: [
    babel({ plugins: ["@lingui/babel-plugin-lingui-macro"], include: /\/src\/.*\.tsx?$/ }),
    react(),
    lingui({ failOnMissing: true, failOnCompileError: true }),
    compressed,
  ],
  build: { outDir: "../src/Kettlefog.Service/wwwroot", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:7420" } },
  test: {
    environment: "jsdom",
    setupFiles: ["./src/test-setup.ts"],
    restoreMocks: true,
    isolate: false,
    testTimeout: 60_000,
  },
});
