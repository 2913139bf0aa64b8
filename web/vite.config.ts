import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { manifest: true, sourcemap: false, assetsInlineLimit: 0 },
  // The guides are what stands in docs.
  server: { proxy: { "/api": "http://127.0.0.1:8000" }, fs: { allow: [".", "../docs"] } },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"], maxWorkers: 2, testTimeout: 20_000 },
});
