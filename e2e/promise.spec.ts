import { expect } from "@playwright/test";
import { importFiles, inDays, nothingSerious, signIn, test, toast } from "./help";

test("a school telephones for 144 bags: 96 can be there in time, and what is promised is seen by a colleague", async ({ browser }) => {
  const tom = await signIn(browser, "sales");
  const ana = await signIn(browser, "coordinator");

  // By the keyboard: the page, the item by part of its name, how many, by when.
  await tom.keyboard.press("g");
  await tom.keyboard.press("a");
  await expect(tom.getByRole("heading", { name: "Promises that stand" })).toBeVisible();
  await expect(tom.getByLabel("Item", { exact: true })).toBeFocused();
  await tom.keyboard.type("stoneware clay");
  await expect(tom.getByRole("option", { name: /^CB-110 / })).toBeVisible();
  await tom.keyboard.press("Enter");
  await tom.getByLabel("Quantity").fill("144");
  await tom.getByLabel("Requested date").fill(inDays(6));
  const way = tom.getByRole("grid", { name: "Ways to serve it" }).getByRole("row").nth(1);
  await expect(way).toContainText("96 of 144");
  await expect(way).toContainText(/96 .+, 48 /);
  await expect(tom.getByRole("img", { name: /What can be promised from Harrow Lane/ })).toBeVisible();

  // The picture says the same in a table, and each day says what it rests on.
  await tom.getByRole("button", { name: /^As a table/ }).click();
  const table = tom.getByRole("table", { name: "Outlook at Harrow Lane" });
  await expect(table.getByRole("row").nth(1)).toContainText("144");
  await expect(table.getByRole("row").nth(1)).toContainText("96");
  await tom.getByRole("button", { name: /^As a table/ }).click();
  const aside = tom.getByRole("complementary", { name: "Lookaside" });
  await expect(aside.getByText(/can still be promised for this day/)).toBeVisible();

  await nothingSerious(tom);

  // It is promised on one of the orders that want the clay; Ana sees it on the order.
  const line = aside.getByRole("radio").first();
  const order = (await aside.locator("label").first().innerText()).match(/SO-\d+/)?.[0];
  await ana.goto(`/orders/${order}`);
  await expect(ana.getByRole("heading", { name: order })).toBeVisible();
  await line.check();
  await expect(way).toContainText("in time");
  await tom.getByRole("button", { name: new RegExp(`^Promise on ${order} line 1`) }).click();
  await expect(toast(tom, new RegExp(`Promised on ${order} line 1: \\d+ for `))).toBeVisible();
  await expect(ana.getByLabel("Trail").getByText(/promised \d+ for .+; it was \d+ for /)).toBeVisible();
});

test("an item that was typed and left at once is found all the same, however slow the server is", async ({ browser }) => {
  const tom = await signIn(browser, "sales");
  await tom.goto("/promise");
  await tom.route("**/api/search*", async (route) => {
    await new Promise((done) => setTimeout(done, 1500));
    await route.continue();
  });
  await expect(tom.getByLabel("Item", { exact: true })).toBeFocused();
  await tom.keyboard.type("stoneware clay");
  await tom.keyboard.press("Enter");
  await tom.getByLabel("Quantity").fill("144");
  await tom.getByLabel("Requested date").fill(inDays(6));
  await expect(tom.getByLabel("Item", { exact: true })).toHaveValue(/^CB-110 · /);
  await expect(tom.getByRole("grid", { name: "Ways to serve it" }).getByRole("row").nth(1)).toContainText("of 144");
  await expect(tom).toHaveURL(/qty=%22144%22.*sku=CB-110/);
});

test("the rest of an order is promised with one key, and allocating keeps the promise", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost,buyable,lead_days\nZP-1,A promised thing,2.00,1.00,no,0\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZP-1,A-1-1,10\n",
    "inbound.csv": `ref,sku,warehouse,due,qty\nPZ-900,ZP-1,HL,${inDays(9)},20\n`,
    "orders.csv": `order,customer,wanted,line,sku,warehouse,qty,ship_by\nSO-9100,WEB,${inDays(3)},1,ZP-1,HL,25,${inDays(1)}\n`,
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/orders/SO-9100");
  await expect(ana.getByRole("button", { name: /^Promise the rest · 25/ })).toBeVisible();
  await ana.keyboard.press("p");
  await expect(toast(ana, /Promised on SO-9100 line 1: 10 for .+, 15 for /)).toBeVisible();
  await expect(ana.getByRole("img", { name: "Line 1: promised 25" })).toBeVisible();
  await expect(ana.getByRole("button", { name: /^Allocate what is free · 10/ })).toBeEnabled();
  await ana.keyboard.press("a");
  await expect(ana.getByRole("img", { name: "Line 1: promised 15, allocated 10" })).toBeVisible();
  await expect(ana.getByLabel("Trail").getByText("kept 10 promised units of ZP-1")).toBeVisible();
  // More than there will be is refused, with what could be.
  await ana.goto("/promise?sku=ZP-1&qty=8");
  const first = ana.getByRole("grid", { name: "Ways to serve it" }).getByRole("row").nth(1);
  await expect(first).toContainText("3: no supply due");
});

test("an arrival is moved, and the promises that slip are seen before it is done", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost,buyable,lead_days\nZQ-1,An awaited thing,2.00,1.00,no,0\n",
    "inbound.csv": `ref,sku,warehouse,due,qty\nPZ-910,ZQ-1,HL,${inDays(7)},30\n`,
    "orders.csv": `order,customer,wanted,line,sku,warehouse,qty,ship_by\nSO-9200,WEB,${inDays(10)},1,ZQ-1,HL,25,${inDays(8)}\n`,
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/orders/SO-9200");
  await ana.getByRole("button", { name: /^Promise the rest · 25/ }).click();
  await expect(toast(ana, /^Promised on SO-9200/)).toBeVisible();

  await ana.goto("/inbound?q=PZ-910");
  await expect(ana.getByRole("button", { name: /^Reschedule/ })).toBeVisible();
  await ana.keyboard.press("e");
  const dialog = ana.getByRole("dialog", {
    name: "Expect PZ-910 on another day",
  });
  await dialog.getByLabel("Expected on").fill(inDays(21));
  await expect(dialog.getByText("1 line could not be kept as promised:")).toBeVisible();
  await expect(dialog.getByRole("table", { name: "What slips" }).getByRole("row").nth(1)).toContainText("SO-9200");
  // Nothing has happened yet.
  await dialog.getByRole("button", { name: "Cancel" }).click();
  await expect(ana.getByRole("row", { name: /PZ-910/ })).toBeVisible();

  await ana.keyboard.press("e");
  await dialog.getByLabel("Expected on").fill(inDays(21));
  await dialog.getByLabel(/^Why/).fill("The works are late");
  await dialog.getByRole("button", { name: "Move it and promise 1 line anew" }).click();
  await expect(toast(ana, /^PZ-910 is due .+ now; it was .+ Promised anew: 1 line\./)).toBeVisible();
  await ana.goto("/orders/SO-9200");
  await expect(ana.getByLabel("Trail").getByText(/promised 25 for .+ of ZQ-1, line 1; it was .+The works are late/)).toBeVisible();
});

test("two fields that are filled before either is drawn both count", async ({ browser }) => {
  const tom = await signIn(browser, "sales");
  await tom.goto("/promise?sku=CB-110");
  await expect(tom.getByLabel("Quantity")).toBeVisible();
  await tom.evaluate(() => {
    for (const [label, value] of [
      ["Quantity", "12"],
      ["Requested date", "2099-03-02"],
    ]) {
      const field = document.querySelector(`[aria-label="${label}"]`);
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(field, value);
      field?.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
  await expect(tom.getByLabel("Quantity")).toHaveValue("12");
  await expect(tom.getByLabel("Requested date")).toHaveValue("2099-03-02");
  await expect(tom).toHaveURL(/sku=CB-110/);
});

test("the promises that stand are grouped, found, and say what each rests on", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/promise?group=item&q=CB-118");
  const group = ana.locator("tr[data-group]").filter({ hasText: "Porcelain, 12.5 kg" });
  await expect(group).toContainText(/\d+ promises/);
  await group.click();
  const rows = ana.locator("tr[data-row]:not([data-group])");
  await expect(rows.first()).toContainText("CB-118");
  await expect(rows.first()).toContainText(/free stock|overdue|due|buying more|short by then/);
  await ana.goto("/promise?sort=qty&down=true");
  await expect(rows.nth(1)).toBeVisible();
  const promised = (
    await rows.evaluateAll((all) => all.map((r) => Number(r.querySelector("td.num")?.textContent.replace(/\D/g, ""))))
  ).slice(0, 10);
  expect(promised).toEqual([...promised].sort((a, b) => b - a));
});
