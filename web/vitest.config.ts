import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  // Machines that are busy with other work type slowly.
  test: { environment: "jsdom", setupFiles: ["src/tests/setup.ts"], css: false, testTimeout: 20_000 },
});
