import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [tailwindcss()],
  esbuild: { jsx: "automatic" },
  build: {
    chunkSizeWarningLimit: 1200,
    rollupOptions: {
      onwarn: (warning, warn) => warning.code !== "MODULE_LEVEL_DIRECTIVE" && warn(warning),
    },
  },
  // The pages of words and of the craft are the documents themselves.
  server: { proxy: { "/api": "http://127.0.0.1:8765" }, fs: { allow: [".", "../docs"] } },
  test: {
    environment: "node",
    include: ["tests/**/*.test.{ts,tsx}"],
    setupFiles: ["tests/setup.ts"],
    pool: "threads",
    // Beside lint, types and compiling a test may wait long for its core; one that hangs is told all the same.
    testTimeout: 60_000,
  },
});
