import { defineConfig } from "@playwright/test";

// One server with a throw-away demo book for all tests; they work on different orders of it.
export const port = 18455;

export default defineConfig({
  testDir: ".",
  testMatch: "*.spec.ts",
  timeout: 180_000,
  expect: { timeout: 20_000 },
  workers: 1,
  fullyParallel: false,
  reporter: [["list"]],
  use: {
    baseURL: `http://127.0.0.1:${port}`,
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
  webServer: {
    command: `../bin/journeyman demo --reset --fast --data /tmp/journeyman-e2e-${process.getuid?.() ?? 0} --addr 127.0.0.1:${port} --deliver-after 8s --log warn`,
    url: `http://127.0.0.1:${port}/readyz`,
    timeout: 240_000,
    reuseExistingServer: false,
    stdout: "ignore",
    stderr: "pipe",
    gracefulShutdown: { signal: "SIGINT", timeout: 15_000 },
  },
});
