import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const server = process.env.PROKLISIS_SERVER ?? "http://127.0.0.1:8750";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  server: { proxy: { "/api": server } },
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 700,
    // The rider's page is built by itself: vite.rider.config.ts.
  },
  // One world for all files of a process: a new one for each takes three times as long. Each test cleans up after itself.
  test: {
    environment: "jsdom",
    isolate: false,
    restoreMocks: true,
    setupFiles: ["src/testsetup.ts"],
    // A machine that does something else besides may be ten times as slow; a hang is still ended.
    testTimeout: 60_000,
    include: ["src/**/*.test.{ts,tsx}"],
  },
});
