import { defineConfig } from "vitest/config";

// Computing tests take seconds on a busy machine: a limit is there for what never ends, not for what is slow.
const LIMIT_MS = 60_000;

export default defineConfig({
  test: {
    include: ["src/**/*.test.ts"],
    environment: "node",
    globalSetup: "./vectors.setup.ts",
    testTimeout: LIMIT_MS,
    hookTimeout: LIMIT_MS,
  },
});
