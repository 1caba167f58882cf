import { defineConfig } from "@playwright/test";
import tests from "./playwright.config";

// The browser of the tests, on the server that the bench has started: it measures instead.
export default defineConfig({ ...tests, testMatch: "bench.ts", globalSetup: undefined, workers: 1, reporter: [["line"]] });
