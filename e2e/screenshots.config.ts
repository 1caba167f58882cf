import { defineConfig } from "@playwright/test";
import tests from "./playwright.config";

// The same server and browser as for the tests; it takes pictures instead.
export default defineConfig({ ...tests, testMatch: "screenshots.ts" });
