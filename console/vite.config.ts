import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "../src/Kettlefog.Service/wwwroot", emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:7420" } },
  test: { environment: "jsdom", setupFiles: ["./src/test-setup.ts"], restoreMocks: true },
});
