import { readFileSync } from "node:fs";
import { expect } from "@playwright/test";
import { nothingSerious, signIn, test, toast } from "./help";

const rows = "tr[data-row]";

test("orders are grouped with sub-totals, unfolded, filtered by a column, and found again with Back", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?state=all");
  const grid = ana.getByRole("grid", { name: "Orders" });
  await expect(ana.locator(rows).first()).toBeVisible();
  await ana.getByLabel("Group the rows").selectOption("By channel");
  const groups = ana.locator("tr[data-group]");
  await expect(groups.first()).toBeVisible();
  // The groups have all orders, and come to what all of them come to.
  await expect(ana.locator("#page-title + div")).toContainText("orders");
  const said = await ana.locator("#page-title + div").innerText();
  const texts = await groups.allInnerTexts();
  const sum = (of: RegExp) => texts.reduce((n, t) => n + Number((of.exec(t)?.[1] ?? "0").replaceAll(",", "")), 0);
  expect(sum(/([\d,]+) orders?/)).toBe(Number(/^([\d,]+) orders/.exec(said)?.[1]?.replaceAll(",", "")));
  expect(sum(/£([\d,.]+)/).toFixed(2)).toBe(/£([\d,.]+)/.exec(said)?.[1]?.replaceAll(",", ""));
  await nothingSerious(ana);
  // By keys: down to the second group, open it, into it, and from there to the order and back.
  await ana.keyboard.press("ArrowDown");
  await ana.keyboard.press("ArrowRight");
  const first = ana.locator("tr[data-row]:not([data-group])").first();
  await expect(first).toBeVisible();
  await expect(groups.nth(1)).toHaveAttribute("aria-expanded", "true");
  await ana.keyboard.press("ArrowDown");
  await expect(first).toHaveAttribute("data-focus", "true");
  await expect(ana).toHaveURL(/row=SO-/);
  const number = await first.locator("a").first().innerText();
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("heading", { level: 1, name: new RegExp(number) })).toBeVisible();
  await ana.goBack();
  await expect(ana.locator('tr[data-focus="true"]')).toContainText(number);
  await expect(groups.nth(1)).toHaveAttribute("aria-expanded", "true");
  // A filter from the menu of a column.
  await ana.getByLabel("Group the rows").selectOption("No groups");
  const head = grid.getByRole("columnheader", { name: /Value/ });
  await head.getByRole("button", { name: "Value: filter, group, arrange" }).click();
  const menu = ana.getByRole("dialog", { name: "Value" });
  await menu.getByLabel("At least").fill("3000");
  await menu.getByLabel("At least").press("Enter");
  await expect(ana.getByRole("button", { name: "Take away: Value from 3000" })).toBeVisible();
  await expect(head.getByLabel("filtered")).toBeVisible();
  const values = async () =>
    (await ana.locator(rows).allInnerTexts()).map((t) => Number(/£([\d,]+\.\d\d)/.exec(t)?.[1]?.replaceAll(",", "")));
  await expect.poll(async () => Math.min(...(await values()))).toBeGreaterThanOrEqual(3000);
  // The title sorts, one way and the other.
  await head.getByRole("button", { name: /^Value( filtered)?$/ }).click();
  await expect(head).toHaveAttribute("aria-sort", "ascending");
  const rising = async () => (await values()).every((v, i, all) => i === 0 || v >= (all[i - 1] ?? 0));
  await expect.poll(rising).toBe(true);
  await head.getByRole("button", { name: /^Value( filtered)?$/ }).click();
  await expect(head).toHaveAttribute("aria-sort", "descending");
});

test("the row in focus is whole in sight, wherever keys take it", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?state=all");
  const focused = ana.locator('tr[data-focus="true"]');
  await expect(focused).toBeVisible();
  // What is above the lower edge of the head, and what is below that of the list.
  const hidden = () =>
    focused.evaluate((row) => {
      const table = row.closest("table");
      const head = table?.querySelector("thead")?.getBoundingClientRect().bottom ?? 0;
      const foot = table?.parentElement?.getBoundingClientRect().bottom ?? 0;
      const { top, bottom } = row.getBoundingClientRect();
      return Math.round(Math.max(head - top, bottom - foot, 0));
    });
  for (const key of ["PageDown", "ArrowDown", "ArrowDown", "PageDown", "ArrowDown", "ArrowUp", "PageUp", "PageUp", "End", "Home"]) {
    const was = await focused.getAttribute("aria-rowindex");
    await ana.keyboard.press(key);
    await expect(focused).not.toHaveAttribute("aria-rowindex", was ?? "");
    await expect(focused).toBeFocused();
    expect(await hidden(), key).toBe(0);
  }
});

test("a view is kept, shared with all, opens the list, and is taken along as a file", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?only=%5B%22channel%3Dweb%22%5D&sort=value&down=true&cols=%22number%2Cvalue%2Ccustomer%3A220%22");
  const heads = ana.getByRole("columnheader");
  await expect(ana.locator(rows).first()).toBeVisible();
  await expect(heads).toHaveCount(4); // and that by which rows are chosen
  await ana.getByRole("button", { name: "View" }).click();
  const menu = ana.getByRole("dialog", { name: "View" });
  await menu.getByLabel("Keep what is shown as").fill("Web, dearest first");
  await menu.getByLabel("for all").check();
  await menu.getByLabel("the list opens with it").check();
  await menu.getByRole("button", { name: "Keep view" }).click();
  await expect(toast(ana, /Web, dearest first/)).toBeVisible();
  const [file] = await Promise.all([ana.waitForEvent("download"), menu.getByRole("link", { name: "CSV" }).click()]);
  const csv = readFileSync(await file.path(), "utf8")
    .trim()
    .split("\n");
  expect(csv[0]).toBe("Order,Value,Customer");
  const first = await ana.locator(rows).first().locator("a").first().innerText();
  expect(csv[1]).toContain(first);
  const [book] = await Promise.all([ana.waitForEvent("download"), menu.getByRole("link", { name: "XLSX" }).click()]);
  expect(book.suggestedFilename()).toMatch(/^orders-.*\.xlsx$/);
  // Somebody else opens the list, and sees it so; and can still have the plain one.
  const tom = await signIn(browser, "sales");
  await tom.goto("/orders");
  await expect(tom).toHaveURL(/view=\d+/);
  await expect(tom.getByRole("columnheader")).toHaveCount(4);
  await expect(tom.locator(rows).first()).toContainText(first);
  await tom.getByRole("button", { name: "View" }).click();
  const his = tom.getByRole("dialog", { name: "View" });
  await expect(his.getByRole("button", { name: "Take away the view Web, dearest first" })).toHaveCount(0);
  await expect(his.getByLabel("for all")).toHaveCount(0);
  await his.getByRole("button", { name: "Plain list" }).click();
  await expect(tom.getByRole("columnheader", { name: /Tier/ })).toBeVisible();
  // A column is hidden and put back; a view of one's own.
  await tom.getByRole("button", { name: "View" }).click();
  await tom.getByRole("dialog", { name: "View" }).getByLabel("Margin").uncheck();
  await expect(tom.getByRole("columnheader", { name: /Margin/ })).toHaveCount(0);
  await tom.keyboard.press("Escape");
  await ana
    .getByRole("dialog", { name: "View" })
    .getByRole("button", { name: /^Take away the view/ })
    .click();
  await expect(toast(ana, /is taken away/)).toBeVisible();
});

test("all that are found are chosen, also those not on the screen; and what has changed since is marked first", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?state=all");
  await expect(ana.locator(rows).first()).toBeVisible();
  const said = ana.locator("#page-title + div");
  await expect(said).toContainText("orders");
  const found = Number(/^([\d,]+) orders/.exec(await said.innerText())?.[1]?.replaceAll(",", ""));
  expect(found).toBeGreaterThan(300);
  expect(await ana.locator(rows).count()).toBeLessThan(100);
  await ana.keyboard.press("Control+a");
  const tray = ana.getByRole("region", { name: "Tray" });
  await expect(tray).toContainText(`${found} orders`);
  // Far down in the list they are chosen, too; one is taken out.
  for (let i = 0; i < 12; i++) await ana.keyboard.press("PageDown");
  await expect(ana.locator('tr[data-focus="true"]')).toHaveAttribute("aria-selected", "true");
  await ana.keyboard.press("Space");
  await expect(tray).toContainText(`${found - 1} orders`);
  await ana.keyboard.press("Escape");
  await expect(tray).toHaveCount(0);
  // One is chosen, and a colleague changes it: it has to be looked at again before anything is done.
  await ana.goto("/orders?station=allocated");
  await expect(ana.locator(rows).first()).toBeVisible();
  const number = await ana.locator('tr[data-focus="true"] a').first().innerText();
  await ana.goto(`/orders?q=${number}`);
  await expect(ana.locator(rows)).toHaveCount(1);
  await ana.keyboard.press("Space");
  await expect(tray).toContainText("1 order");
  const mia = await signIn(browser, "manager");
  await mia.goto(`/orders?q=${number}`);
  await expect(mia.locator(rows)).toHaveCount(1);
  await mia.keyboard.press("Space");
  await mia.keyboard.press("b");
  await expect(toast(mia, /back/i)).toBeVisible();
  await expect(tray).toContainText("1 order changed since you chose");
  await expect(ana.locator(rows).getByLabel("changed")).toBeVisible();
  await expect(tray.getByRole("button", { name: /^Allocate/ })).toBeDisabled();
  await ana.keyboard.press("y");
  await expect(tray).not.toContainText("changed");
  await ana.keyboard.press("a");
  await expect(toast(ana, /Allocated|Working/)).toBeVisible();
});

test("rows are copied as a spreadsheet takes them", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  await ana.goto("/items?q=celadon");
  await expect(ana.locator(rows).first()).toBeVisible();
  await ana.keyboard.press("Control+c");
  await expect(toast(ana, /copied/)).toBeVisible();
  const text = await ana.evaluate(() => navigator.clipboard.readText());
  const lines = text.split("\n");
  expect(lines[0]?.split("\t").slice(0, 3)).toEqual(["Item", "Name", "Unit"]);
  expect(lines.length).toBe((await ana.locator(rows).count()) + 1);
});

test("what stands at the dock is grouped, filtered by weight and chosen whole; pick lists are found by an order on them", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/dock");
  await expect(ana.locator(rows).first()).toBeVisible();
  const found = async () => Number(/^([\d,]+) shipment/.exec(await ana.locator("#page-title + div").innerText())?.[1]?.replaceAll(",", ""));
  // The rows come before their count.
  await expect.poll(found).toBeGreaterThan(0);
  const all = await found();
  await ana.keyboard.press("Control+a");
  const tray = ana.getByRole("region", { name: "Tray" });
  // The carrier may still be asked about one that another test sent.
  await expect(tray).toContainText(/^\d+ shipments\d+ packages/);
  expect(Number(/^(\d+) shipments/.exec(await tray.innerText())?.[1])).toBeGreaterThan(all - 3);
  await ana.keyboard.press("Escape");
  await expect(tray).toHaveCount(0);
  // Heavier than a hundred kilograms.
  const head = ana.getByRole("columnheader", { name: /Weight/ });
  await head.hover();
  await head.getByRole("button", { name: "Weight: filter, group, arrange" }).click();
  const menu = ana.getByRole("dialog", { name: "Weight" });
  await menu.getByLabel("At least").fill("100");
  await menu.getByLabel("At least").press("Enter");
  await expect(ana.getByRole("button", { name: "Take away: Weight from 100 kg" })).toBeVisible();
  await expect.poll(found).toBeLessThan(all);
  const weights = (await ana.locator(rows).allInnerTexts()).map((t) => Number(/([\d,.]+) kg/.exec(t)?.[1]?.replaceAll(",", "")));
  expect(Math.min(...weights)).toBeGreaterThanOrEqual(100);
  // By warehouse, the groups have all of them, and say what they weigh.
  await ana.getByLabel("Group the rows").selectOption("By warehouse");
  const groups = ana.locator("tr[data-group]");
  await expect(groups.first()).toContainText(/\d+ shipments?.* kg weight/s);
  const sum = (await groups.allInnerTexts()).reduce((n, t) => n + Number(/(\d+) shipments?/.exec(t)?.[1]), 0);
  expect(sum).toBe(await found());
  await nothingSerious(ana);
  // A pick list that is done is found by the number of an order on it.
  await ana.goto("/floor?state=done");
  await ana.locator(rows).first().getByRole("link").click();
  const order = await ana.getByRole("link", { name: /^SO-/ }).first().innerText();
  const list = await ana.getByRole("heading", { level: 1 }).innerText();
  await ana.goto(`/floor?state=all&q=${order}`);
  await expect(ana.locator(rows, { hasText: /PL-\d+/.exec(list)?.[0] ?? "none" })).toBeVisible();
  await ana.goto("/packing");
  await expect(ana.locator(rows).first()).toBeVisible();
  const job = await ana.locator('tr[data-focus="true"]').innerText();
  await expect(ana.getByRole("region", { name: `Packing ${/SO-\d+/.exec(job)?.[0] ?? "none"}` })).toBeVisible();
});

test("the journal of an order has what its trail says, grouped by what was done", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders/SO-10491");
  await ana.getByLabel("Trail").getByRole("link", { name: "Open in the journal" }).click();
  await expect(ana.getByRole("heading", { level: 1, name: "Journal" })).toBeVisible();
  await expect(ana.getByRole("button", { name: "Take away: Order is SO-10491" })).toBeVisible();
  await expect(ana.locator(rows).first()).toContainText("SO-10491");
  const moves = await ana.locator(rows).count();
  await expect(ana.locator(rows, { hasText: "SO-10491" })).toHaveCount(moves);
  await ana.getByLabel("Group the rows").selectOption("By what was done");
  await expect(ana.locator("tr[data-group]", { hasText: /^\s*dispatched/ })).toContainText(/\d+ units/);
});
