import AxeBuilder from "@axe-core/playwright";
import { gzipSync } from "node:zlib";
import { expect } from "@playwright/test";
import { signIn, test, toast } from "./help";

const pages: [string, RegExp][] = [
  ["/", /^\w{3} \d+ \w{3}$/],
  ["/orders", /^Orders$/],
  ["/shortages", /^Shortages$/],
  ["/policies", /^Policies$/],
  ["/people", /^(People|Your sign-in)$/],
  ["/orders/SO-10700", /^SO-10700/],
  ["/open", /^Open$/],
  ["/promise", /^Promises that stand$/],
  ["/release", /^Release$/],
  ["/papers", /^Papers$/],
  ["/lots", /^Lots$/],
  ["/pick", /^Pick$/],
  ["/pack", /^Pack$/],
  ["/put-back", /^Put back$/],
  ["/counts", /^Counts$/],
  ["/allocation", /^Allocation$/],
  ["/floor", /^Released: pick lists$/],
  ["/floor > PL-", /^PL-/],
  ["/packing", /^Picked: packing$/],
  ["/dock", /^The dock$/],
  ["/dock?state=under+way", /^The dock$/],
  ["/dock > SH-", /^SH-/],
  ["/inbound", /^Inbound$/],
  ["/journal", /^Journal$/],
  ["/items", /^Items$/],
  ["/items/GL-2040-1", /^GL-2040-1/],
  ["/customers", /^Customers$/],
  ["/customers/WEB", /^Web shop$/],
  ["/import", /^Import files$/],
  ["/entry?customer=WEB&sku=GL-2040-1&qty=4", /^New order or quote$/],
  ["/quotes", /^Quotes$/],
  ["/quotes/Q-3002", /^Quote Q-3002$/],
  ["/buying", /^Requests to buy$/],
  ["/settings", /^Settings$/],
  ["/licences", /^Licences$/],
];

// Nothing here changes what another test looks at.
test.describe.configure({ mode: "parallel" });

const half = Math.ceil(pages.length / 2);
const shown: [string, string, [string, RegExp][]][] = [
  ["of the first half by day", "day", pages.slice(0, half)],
  ["of the second half by day", "day", pages.slice(half)],
  ["of the first half by night", "night", pages.slice(0, half)],
  ["of the second half by night", "night", pages.slice(half)],
];
for (const [which, theme, some] of shown)
  test(`every page ${which} shows real data and has nothing serious against it`, async ({ browser }) => {
    test.setTimeout(600_000); // axe takes its time on a slow machine
    const ana = await signIn(browser, "coordinator");
    await ana.evaluate((t) => localStorage.setItem("theme", t), theme);
    for (const [path, heading] of some) {
      const [list = "", link] = path.split(" > ");
      await ana.goto(list);
      if (link)
        await ana
          .getByRole("link", { name: new RegExp(`^${link}`) })
          .first()
          .click();
      await expect(ana.getByRole("heading", { level: 1, name: heading })).toBeVisible();
      await expect(ana.locator("[aria-busy=true]")).toHaveCount(0);
      if (path === "/allocation") await ana.keyboard.press("e"); // a plan, which changes nothing
      if (path !== "/import") await expect(ana.locator("tbody tr, .floor-choice").first()).toBeVisible();
      // No text of what has none: a message that was not put into words, a number that is none, a place that was not filled.
      const texts = await ana.evaluate(() => [
        document.body.innerText,
        ...Array.from(
          document.querySelectorAll("[aria-label], [title]"),
          (e) => `${e.getAttribute("aria-label") ?? ""} ${e.getAttribute("title") ?? ""}`,
        ),
      ]);
      expect(texts.filter((t) => /\[object|undefined|NaN|\{\d|<\d/.test(t))).toEqual([]);
      const found = await new AxeBuilder({ page: ana }).analyze();
      const serious = found.violations.filter((v) => v.impact === "serious" || v.impact === "critical");
      expect(serious.map((v) => `${path} (${theme}): ${v.id} ${v.nodes[0]?.html} ${v.nodes[0]?.failureSummary}`)).toEqual([]);
    }
  });

for (const [width, height, touch] of [
  [1024, 768, false],
  [800, 1000, true],
] as const)
  test(`the pages of the floor fit ${width} × ${height}${touch ? ", with targets for a finger" : ""}`, async ({ browser }) => {
    const flo = await signIn(browser, "floor", "", { viewport: { width, height }, hasTouch: touch });
    const first = async (path: string, link: RegExp) => {
      await flo.goto(path);
      return (await flo.getByRole("link", { name: link }).first().getAttribute("href")) ?? "";
    };
    const list = await first("/floor", /^PL-/);
    const shipment = await first("/dock", /^SH-/);
    await flo.goto("/pack");
    const order = await flo.locator(".floor-choice b").first().innerText();
    for (const path of [
      "/floor",
      list,
      "/packing",
      "/dock",
      shipment,
      "/pick",
      list.replace("floor", "pick"),
      "/pack",
      `/pack/${order}`,
      "/counts",
      "/put-back",
    ]) {
      await flo.goto(path);
      await expect(flo.locator("[aria-busy=true]")).toHaveCount(0);
      await expect(flo.locator("tbody tr, fieldset, .floor-choice, .floor-now").first()).toBeVisible();
      const wide = await flo.evaluate(() =>
        [document.documentElement, document.getElementById("page")!].map((e) => e.scrollWidth - e.clientWidth),
      );
      expect([path, ...wide]).toEqual([path, 0, 0]);
      if (!touch) continue;
      const small = await flo
        .locator("#page :is(button, input, select):visible")
        .evaluateAll((all) => all.flatMap((e) => (e.getBoundingClientRect().height < 28 ? [e.outerHTML.slice(0, 90)] : [])));
      expect([path, ...small]).toEqual([path]);
      const buttons = await flo
        .locator("#page .btn:visible")
        .evaluateAll((all) => all.flatMap((e) => (e.getBoundingClientRect().height < 44 ? [e.outerHTML.slice(0, 90)] : [])));
      expect([path, ...buttons]).toEqual([path]);
    }
  });

test("the sign-in page has nothing serious against it", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByText("This is the demo")).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.filter((v) => v.impact === "serious" || v.impact === "critical")).toEqual([]);
  await page.getByLabel("Login").fill("ana");
  await page.getByLabel("Password").fill("nothing like it");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toHaveText(/do not belong together/);
});

test("the first load ships less than 300 kB of compressed script", async ({ page }) => {
  const sizes: Promise<number>[] = [];
  page.on("response", (r) => {
    if (r.url().endsWith(".js")) sizes.push(r.body().then((script) => gzipSync(script).length));
  });
  await page.goto("/", { waitUntil: "networkidle" });
  await expect(page.getByText("This is the demo")).toBeVisible();
  const size = (await Promise.all(sizes)).reduce((sum, n) => sum + n, 0);
  expect(size).toBeGreaterThan(50_000);
  expect(size).toBeLessThan(300_000);
});

test("everything is found and reached by the keyboard", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.keyboard.press("Control+k");
  await ana.keyboard.type("celadon");
  await expect(ana.getByRole("option", { name: /GL-2040-5/ })).toBeVisible();
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("heading", { name: /^GL-2040-1 · Celadon glaze/ })).toBeVisible();
  await ana.keyboard.press("?");
  await expect(ana.getByRole("dialog", { name: "Keyboard shortcuts" })).toContainText("Go to");
  await ana.keyboard.press("Escape");
  await ana.keyboard.press("g");
  await ana.keyboard.press("r");
  await expect(ana.getByRole("heading", { name: "Release" })).toBeVisible();
  // The lookaside follows the row in focus; chosen lines go into the tray.
  const first = await ana.locator("tr[data-focus=true] td:nth-child(6) a").textContent();
  await expect(
    ana
      .getByLabel("Lookaside")
      .getByRole("link", { name: first ?? "" })
      .first(),
  ).toBeVisible();
  await ana.keyboard.press("Space");
  await ana.keyboard.press("ArrowDown");
  await ana.keyboard.press("Space");
  await expect(ana.getByLabel("Tray")).toContainText("2 lines");
  await ana.keyboard.press("Escape");
  await expect(ana.getByLabel("Tray")).toHaveCount(0);
  await expect(ana.getByText(/Not offered: \d+ lines\./)).toBeVisible();
});

test("a role sees what it may not do", async ({ browser }) => {
  const tom = await signIn(browser, "sales");
  await tom.goto("/open");
  await expect(tom.getByRole("button", { name: /^Allocate/ }).first()).toBeDisabled();
  await tom.goto("/import");
  await expect(tom.getByText("Imports are for a coordinator.")).toBeVisible();
});

test("a held shipment may not leave, and says why", async ({ browser }) => {
  const flo = await signIn(browser, "floor");
  await flo.goto("/dock");
  const row = flo.getByRole("row", { name: /coordinator hold/ });
  await row.getByRole("checkbox").check();
  await flo.keyboard.press("d");
  await expect(toast(flo, /is on coordinator hold: The customer has cancelled/)).toBeVisible();
});

test("the first page needs at most 170 kB of script, whatever it needs", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/");
  await expect(ana.locator("#page-title")).toBeVisible();
  await expect(ana.getByRole("navigation", { name: "Stations" })).toBeVisible();
  // What came before the page was there; the code of other pages follows later, when there is nothing else to do.
  const bytes = await ana.evaluate(() => {
    const there = performance.getEntriesByType("navigation")[0] as PerformanceNavigationTiming;
    return (performance.getEntriesByType("resource") as PerformanceResourceTiming[])
      .filter((r) => r.name.endsWith(".js") && r.startTime < there.loadEventEnd + 1000)
      .reduce((n, r) => n + r.encodedBodySize, 0);
  });
  expect(bytes).toBeGreaterThan(50_000);
  expect(bytes).toBeLessThan(170_000);
});
