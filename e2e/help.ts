import AxeBuilder from "@axe-core/playwright";
import { expect, test as plain, type Browser, type BrowserContext, type BrowserContextOptions, type Page } from "@playwright/test";
import { startServer } from "./server";

const opened: BrowserContext[] = [];

/** The server of a worker; a file of tests gets one of its own. */
class Server {
  private file = "";
  private running?: { url: string; stop: () => Promise<void> };

  async of(file: string) {
    if (file !== this.file) {
      await this.stop();
      this.running = await startServer();
      this.file = file;
    }
    return this.running!.url;
  }

  async stop() {
    await this.running?.stop();
    this.running = undefined;
  }
}

/**
 * A test on the server of its file, after which the browsers that it opened are closed: somebody may have only so many pages
 * open.
 */
export const test = plain.extend<{ closing: void }, { server: Server }>({
  server: [
    async ({}, use) => {
      const server = new Server();
      await use(server);
      await server.stop();
    },
    { scope: "worker" },
  ],
  baseURL: async ({ server }, use, info) => use(await server.of(info.file)),
  closing: [
    async ({}, use) => {
      await use();
      for (const context of opened.splice(0)) await context.close();
    },
    { auto: true },
  ],
});

/** A page in a browser of its own, in which nobody is signed in. */
export async function newPage(browser: Browser, options: BrowserContextOptions = {}): Promise<Page> {
  const context = await browser.newContext(options);
  opened.push(context);
  return context.newPage();
}

/** A browser of its own, signed in as one of the demo's people. Errors in its console fail the test. */
export async function signIn(
  browser: Browser,
  role: "coordinator" | "sales" | "floor" | "manager",
  expected = "",
  options: BrowserContextOptions = {},
): Promise<Page> {
  const page = await newPage(browser, options);
  watch(page, expected);
  await page.goto("/");
  await page.getByRole("button", { name: new RegExp(`^${role}`, "i") }).click();
  await expect(page.getByRole("navigation", { name: "Stations" })).toBeVisible();
  return page;
}

/** Fails the test when something goes wrong in the browser; expected are further answers that the test asks for, such as |503. */
export function watch(page: Page, expected = "") {
  page.on("pageerror", (e) => {
    throw e;
  });
  page.on("console", (m) => {
    // The browser notes a refusal (4xx) and a request that a test cut off as errors of its own.
    if (m.type() === "error" && !new RegExp(`status of (403|404|409|422${expected})|ERR_FAILED`).test(m.text()))
      throw new Error(`console: ${m.text()}`);
  });
}

export async function importFiles(page: Page, files: Record<string, string>) {
  await page.goto("/import");
  await page.locator("input[type=file]").setInputFiles(
    Object.entries(files).map(([name, text]) => ({
      name,
      mimeType: "text/csv",
      buffer: Buffer.from(text),
    })),
  );
}

/** A field by its whole label: the list of what is found beneath a field is called after it. */
export const field = (page: Page, label: string) => page.getByLabel(label, { exact: true });

/** The toast that says what came of the last command. */
export const toast = (page: Page, text: string | RegExp) => page.locator("[role=status], [role=alert]").filter({ hasText: text }).last();

/** Fails if axe finds anything serious on the page. */
export async function nothingSerious(page: Page) {
  const found = await new AxeBuilder({ page }).analyze();
  expect(
    found.violations
      .filter((v) => v.impact === "serious" || v.impact === "critical")
      .map((v) => `${v.id} ${v.nodes[0]?.html} ${v.nodes[0]?.failureSummary}`),
  ).toEqual([]);
}

/** A day so many calendar days from today, as the date field wants it. */
export const inDays = (n: number) => new Date(Date.now() + n * 864e5).toISOString().slice(0, 10);
