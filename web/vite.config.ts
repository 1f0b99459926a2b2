import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwind()],
  build: { target: "es2023", assetsInlineLimit: 0 },
  server: {
    host: "127.0.0.1",
    port: 5173,
    strictPort: true,
    proxy: {
      "/api": process.env.KESTREL_API ?? "http://127.0.0.1:7310",
      "/healthz": process.env.KESTREL_API ?? "http://127.0.0.1:7310",
    },
  },
  // A page in jsdom takes seconds on a machine that is busy building.
  test: { include: ["src/**/*.test.{ts,tsx}"], setupFiles: ["src/testing/setup.ts"], testTimeout: 60_000 },
});
