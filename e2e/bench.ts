import { expect, test, type Browser, type Page } from "@playwright/test";

const url = process.env.JOURNEYMAN_BENCH_URL ?? "";
const wanted = (process.env.JOURNEYMAN_BENCH_PAGES ?? "").split(",");

/** How often each key is pressed, and each page gone to. */
const presses = 60;
const visits = 12;

interface Traced {
  name: string;
  args?: { data?: { type?: string; duration?: number } };
}

/** Chromium's trace of what is done, as its events. */
async function traced(browser: Browser, page: Page, does: () => Promise<void>): Promise<Traced[]> {
  await browser.startTracing(page, { categories: ["devtools.timeline", "blink.user_timing"] });
  await does();
  const text = (await browser.stopTracing()).toString("utf8");
  return (JSON.parse(text) as { traceEvents: Traced[] }).traceEvents;
}

function told(values: number[]) {
  const sorted = [...values].sort((a, b) => a - b);
  const at = (share: number) => (sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN).toFixed(0);
  return `median ${at(0.5)} ms, 95th ${at(0.95)} ms of ${sorted.length}`;
}

/** From the press of a key to the painted frame, as the browser notes it (Event Timing, W3C). */
async function pressed(browser: Browser, page: Page, key: string): Promise<string> {
  const events = await traced(browser, page, async () => {
    for (let i = 0; i < presses; i++) {
      await page.keyboard.press(key);
      await page.waitForTimeout(60);
    }
  });
  const took = events.flatMap((e) => (e.name === "EventTiming" && e.args?.data?.type === "keydown" ? [e.args.data.duration ?? 0] : []));
  expect(took.length).toBeGreaterThan(presses / 2);
  return told(took);
}

/** From the press of a link to the first rows that are painted. */
async function visited(page: Page, link: string): Promise<string> {
  const took: number[] = [];
  for (let i = 0; i < visits; i++) {
    await page.getByRole("link", { name: "Customers" }).click();
    await expect(page.getByRole("heading", { level: 1, name: "Customers" })).toBeVisible();
    await page.waitForTimeout(300);
    took.push(
      await page.evaluate(
        (href) =>
          new Promise<number>((done) => {
            const from = performance.now();
            const look = () => {
              if (location.pathname === href && document.querySelector("tr[data-row]")) {
                requestAnimationFrame(() => setTimeout(() => done(performance.now() - from)));
              } else requestAnimationFrame(look);
            };
            document.querySelector<HTMLElement>(`a[href="${href}"]`)?.click();
            look();
          }),
        link,
      ),
    );
  }
  return told(took);
}

const pages: Record<string, string> = { orders: "/orders", open: "/open", release: "/release" };

test.setTimeout(600_000);

for (const name of wanted.filter((n) => n in pages)) {
  test(name, async ({ browser }) => {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await page.goto(url);
    await page.getByRole("button", { name: /^coordinator/i }).click();
    await expect(page.getByRole("navigation", { name: "Stations" })).toBeVisible();
    const path = pages[name] ?? "";
    await page.goto(`${url}/customers`);
    console.log(`\n${name}: to the first rows, ${await visited(page, path)}`);
    // Far down the list, thousands of rows have come.
    await page.waitForTimeout(1000);
    const begin = Date.now();
    for (let i = 0; i < 200; i++) await page.keyboard.press("PageDown");
    await page.waitForTimeout(500);
    const at = await page.locator('tr[data-focus="true"]').getAttribute("aria-rowindex");
    console.log(`${name}: 200 times PageDown in ${Date.now() - begin} ms, to row ${at}`);
    console.log(`${name}: a key, ${await pressed(browser, page, "ArrowDown")}`);
  });
}

test("bare table", async ({ browser }) => {
  test.skip(!wanted.includes("bare table"));
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  await page.setContent(`<style>td{border-bottom:1px solid #ccc;height:30px}.on{background:#eaf0fe}</style><table><tbody></tbody></table>`);
  await page.evaluate(() => {
    const texts = ["3", "Fri 27 Nov", "SO-10491", "Sedgemire Studio", "GL-2040-1", "36", "18", "1/2"];
    const cells = texts.map((t) => `<td>${t}</td>`).join("");
    document.querySelector("tbody")!.innerHTML = `<tr>${cells}</tr>`.repeat(70_000);
    let at = 0;
    const rows = document.querySelectorAll("tr");
    addEventListener("keydown", (e) => {
      e.preventDefault();
      rows[at]?.classList.remove("on");
      rows[++at]?.classList.add("on");
      rows[at]?.scrollIntoView({ block: "nearest" });
    });
  });
  console.log(`\na bare table of 70,000 rows: a key, ${await pressed(browser, page, "ArrowDown")}`);
});
