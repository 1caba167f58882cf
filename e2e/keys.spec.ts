import { expect } from "@playwright/test";
import { inDays, signIn, test, toast } from "./help";

test("Tab and Enter press the button in focus and do nothing else", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto(`/promise?sku=CB-110&qty=20&wished=${inDays(9)}&warehouse=HL&customer=C106`);
  const line = ana.getByRole("complementary", { name: "Lookaside" }).getByRole("radio").first();
  await line.check();
  await expect(ana.getByRole("button", { name: /^Promise on SO-\d+ line/ })).toBeEnabled();
  const promised: string[] = [];
  ana.on("request", (r) => r.method() === "POST" && /api\/(promise|make-quote|enter-order)$/.test(r.url()) && promised.push(r.url()));
  for (let n = 0; n < 60 && !(await ana.getByRole("button", { name: /^Quote/ }).evaluate((b) => b === document.activeElement)); n++)
    await ana.keyboard.press("Tab");
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("heading", { name: /^Quote Q-/ })).toBeVisible();
  expect(promised).toHaveLength(1);
  expect(promised[0]).toMatch(/make-quote$/);

  // A link and a choice are pressed alike: Enter opens what the link leads to, not the row in focus.
  await ana.goto("/orders");
  await expect(ana.locator("tr[data-focus=true]")).toBeVisible();
  await ana.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Items" }).focus();
  // The page comes late: the row that was in focus on the way does not get into its address.
  await ana.route(/ItemsPage-.*\.js/, async (route) => {
    await new Promise((r) => setTimeout(r, 900));
    await route.continue();
  });
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("heading", { level: 1, name: "Items" })).toBeVisible();
  await expect(ana).toHaveURL(/\/items(\?row=|$)/);
  expect(ana.url()).not.toMatch(/row=SO-/);

  // Who has pressed a filter and moves on in the list means the row.
  await ana.goto("/orders");
  await ana.getByRole("button", { name: "Unfinished", exact: true }).click();
  await expect(ana.locator("tr[data-focus=true]")).toBeVisible();
  await ana.keyboard.press("ArrowDown");
  const second = await ana.locator("tr[data-focus=true] a[href^='/orders/']").first().innerText();
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("heading", { level: 1, name: second })).toBeVisible();
});

test("g and a letter go to a page, and the letter does not do what it does alone", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders/SO-10698");
  await expect(ana.getByRole("button", { name: /^Release · \d+/ })).toBeEnabled();
  const asked: string[] = [];
  ana.on("request", (r) => r.method() === "POST" && asked.push(r.url()));
  for (const [letter, path] of [
    ["r", "/release"],
    ["a", "/promise"],
    ["d", "/dock"],
    ["p", "/packing"],
    ["c", "/shortages"],
  ] as const) {
    await ana.goto("/orders/SO-10698");
    await expect(ana.getByRole("button", { name: /^Release · \d+/ })).toBeEnabled();
    await ana.keyboard.press("g");
    await ana.keyboard.press(letter);
    await expect(ana).toHaveURL(new RegExp(`${path}(\\?|$)`));
  }
  // A letter that leads nowhere does nothing at all after g.
  await ana.goto("/orders/SO-10698");
  await expect(ana.getByRole("button", { name: /^Release · \d+/ })).toBeEnabled();
  await ana.keyboard.press("g");
  await ana.keyboard.press("h"); // alone it would put the order on hold
  await expect(ana.getByRole("dialog")).toHaveCount(0);
  await ana.keyboard.press("h");
  await expect(ana.getByRole("dialog")).toBeVisible();
  expect(asked.filter((url) => /api\/(release|allocate|promise|drop|hold)$/.test(url))).toEqual([]);
});

test("the keys of a page are listed in groups, none of them twice, and a dialog has no others", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  for (const path of ["/orders", "/orders/SO-10698", "/release", "/dock", "/shortages", "/promise", "/open"]) {
    await ana.goto(path);
    await expect(ana.getByRole("heading", { level: 1 })).toBeVisible();
    await expect(ana.locator("tr[data-focus=true]").first()).toBeVisible();
    await ana.keyboard.press("x"); // what is chosen brings the keys of the tray
    await ana.locator("#page").focus();
    await ana.keyboard.press("?");
    const list = ana.getByRole("dialog", { name: "Keyboard shortcuts" });
    await expect(list.getByRole("heading", { name: "Everywhere" })).toBeVisible();
    await expect(list.getByRole("heading", { name: "Go to" })).toBeVisible();
    const keys = await list.locator("kbd").allInnerTexts();
    expect(keys.length).toBeGreaterThan(18);
    expect(keys.filter((k, i) => keys.indexOf(k) !== i)).toEqual([]);
    await ana.keyboard.press("n"); // a new order, on the page
    await expect(list).toBeVisible();
    await ana.keyboard.press("Escape");
    await expect(list).toHaveCount(0);
  }
});

test("the focus goes along: to the page, past the menu, and back to where a dialog was opened", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.keyboard.press("g");
  await ana.keyboard.press("i");
  await expect(ana.getByRole("heading", { level: 1, name: /^Inbound/ })).toBeVisible();
  await expect(ana.locator("#page")).toBeFocused();
  await expect(ana).toHaveTitle(/^Inbound · Journeyman$/);

  await ana.goto("/items");
  await expect(ana.getByRole("heading", { level: 1, name: "Items" })).toBeVisible();
  await ana.keyboard.press("Tab");
  await expect(ana.getByRole("link", { name: "Skip to the page" })).toBeFocused();
  await ana.keyboard.press("Enter");
  await expect(ana.locator("#page")).toBeFocused();

  await ana.getByRole("button", { name: "Keyboard shortcuts" }).focus();
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("dialog")).toBeVisible();
  await ana.keyboard.press("Escape");
  await expect(ana.getByRole("dialog")).toHaveCount(0);
  await expect(ana.getByRole("button", { name: "Keyboard shortcuts" })).toBeFocused();
});

test("a key that is held down does its work once", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders/SO-10698");
  await expect(ana.getByRole("button", { name: /^Allocate what is free · \d+/ })).toBeEnabled();
  const asked: string[] = [];
  ana.on("request", (r) => r.method() === "POST" && /api\/allocate$/.test(r.url()) && asked.push(r.url()));
  await ana.keyboard.down("a");
  await ana.keyboard.down("a"); // as it repeats
  await ana.keyboard.down("a");
  await ana.keyboard.up("a");
  await expect(toast(ana, /^Allocated/)).toBeVisible();
  expect(asked).toHaveLength(1);
  await ana.keyboard.press("u");
  await expect(toast(ana, /^Undone/)).toBeVisible();
});

test("a number that is not whole, or too great, is refused in words and never becomes another one", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto(`/promise?sku=CB-110&qty=20&wished=${inDays(9)}&warehouse=HL`);
  await ana.getByLabel("Quantity").fill("12.5");
  await expect(ana.getByRole("alert").filter({ hasText: "12.5 is not whole: type whole units." })).toBeInViewport({ ratio: 0.9 });
  await expect(ana).toHaveURL(/qty=(%22)?20/);
  await ana.getByLabel("Quantity").fill("1,200");
  await expect(ana).toHaveURL(/qty=(%22)?1200/);

  await ana.goto("/release");
  const field = ana.locator("tr[data-focus=true] input.qty");
  await field.fill("99999");
  await expect(ana.getByRole("alert").filter({ hasText: /^At most \d+\.$/ })).toBeInViewport({ ratio: 0.9 });
  await expect(ana.getByLabel("Tray")).toHaveCount(0); // it counts as nothing
  await field.fill("1");
  await expect(ana.getByRole("alert")).toHaveCount(0);
  await expect(ana.getByLabel("Tray")).toContainText("1 line");

  await ana.goto("/entry");
  await ana.getByLabel("Item, line 1").fill("CB-110");
  await expect(ana.getByRole("option", { name: /CB-110/ }).first()).toBeInViewport({ ratio: 0.9 });
  await ana.keyboard.press("Enter");
  await ana.getByLabel("Quantity, line 1").fill("12.5");
  await expect(ana.getByRole("alert").filter({ hasText: "12.5 is not whole" })).toBeInViewport({ ratio: 0.9 });
  await ana.getByLabel("Quantity, line 1").fill("12");
  await expect(ana.getByRole("alert")).toHaveCount(0);
});
