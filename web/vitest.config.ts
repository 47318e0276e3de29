import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  test: {
    environment: "jsdom",
    setupFiles: ["src/tests/setup.ts"],
    css: false,
    // A page and its modules for each file would cost more than all tests; what a test leaves behind, setup.ts clears away.
    isolate: false,
    maxWorkers: 2,
    // Machines that are busy with other work type slowly.
    testTimeout: 120_000,
  },
});
