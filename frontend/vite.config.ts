import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const server = process.env.PROKLISIS_SERVER ?? "http://127.0.0.1:8750";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  server: { proxy: { "/api": server } },
  build: { target: "es2022", chunkSizeWarningLimit: 700 },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"] },
});
