import { defineConfig } from "@playwright/test";

// Files of tests run side by side, each on a server of its own with a copy of the demo book. Within a file tests run one after
// another and work on different orders.
export default defineConfig({
  testDir: ".",
  testMatch: "*.spec.ts",
  timeout: 180_000,
  expect: { timeout: 20_000 },
  globalSetup: "./server.ts",
  workers: 2,
  fullyParallel: false,
  reporter: [["list"]],
  use: {
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    actionTimeout: 40_000,
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--lang=en-GB",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
