import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** The rider's page: one script of its own, so that a phone on a poor line asks for few things. */
export default defineConfig({
  plugins: [react(), tailwindcss()],
  publicDir: false,
  build: { target: "es2022", emptyOutDir: false, rollupOptions: { input: "rider.html" } },
});
