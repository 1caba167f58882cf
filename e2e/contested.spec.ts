import { expect, type Page } from "@playwright/test";
import { importFiles, inDays, nothingSerious, signIn, test, toast } from "./help";

const aside = (page: Page) => page.getByRole("complementary", { name: "Lookaside" });
const tray = (page: Page) => page.getByRole("region", { name: "Tray" });
const claim = (page: Page, order: string | RegExp) => page.getByRole("row", { name: order });

/** What was done is undone, so that the other tests find the demo as it was. */
async function takeBack(page: Page, what: RegExp) {
  await page.getByRole("alertdialog").filter({ hasText: what }).last().getByRole("button", { name: /Undo/ }).click();
  await expect(toast(page, /^Undone/)).toBeVisible();
}

test("a glaze that six orders compete for: units go by keys to the school, who becomes late is seen, and it is applied", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  await ana.keyboard.press("g");
  await ana.keyboard.press("c");
  await expect(ana.getByRole("heading", { level: 1, name: "Shortages" })).toBeVisible();
  await ana
    .getByRole("navigation", { name: "Shortages" })
    .getByRole("button", { name: /GL-2040-1/ })
    .click();
  await expect(ana.getByText("265 short; 200 come")).toBeVisible();
  await expect(ana.getByRole("list", { name: /What there is/ })).toContainText("PO-733");
  await expect(ana.locator("tbody tr")).toHaveCount(6);
  await nothingSerious(ana);

  // The school of tier 1 stands first. All that is free goes to it: eighteen of the thirty-six that it lacks.
  const school = claim(ana, /Aldersyke College/);
  await expect(school).toHaveAttribute("data-focus", "true");
  await ana.keyboard.press("Shift+ArrowRight");
  await expect(tray(ana)).toContainText("Tried on 1 line");
  await expect(school.getByRole("img")).toHaveAccessibleName("24 allocated, 18 more, 18 lacking");

  // The other eighteen come from a tier-3 shop: down to it, all of it away; and up again.
  for (let i = 0; i < 3; i++) await ana.keyboard.press("ArrowDown");
  await expect(claim(ana, /Brackenfield/)).toHaveAttribute("data-focus", "true");
  await ana.keyboard.press("Shift+ArrowLeft");
  await expect(claim(ana, /Brackenfield/).getByRole("img")).toHaveAccessibleName(/18 fewer/);
  for (let i = 0; i < 3; i++) await ana.keyboard.press("ArrowUp");
  await ana.keyboard.press("Shift+ArrowRight");
  await expect(school.getByRole("img")).toHaveAccessibleName("24 allocated, 36 more");
  // On a weekend the book is that of the Friday before, whose lorry is missed.
  await expect(aside(ana).getByText(/Aldersyke College, SO-\d+: (in time|can leave (Sat|Mon))/)).toBeVisible();
  await expect(aside(ana).getByText(/SO-\d+ becomes complete/)).toBeVisible();
  await expect(aside(ana).getByText(/Brackenfield.*: waits for/)).toBeVisible();
  await expect(tray(ana)).toContainText(/Late lines 6 → [56]|Late lines 6/);
  await nothingSerious(ana);

  // More than there is cannot be applied, and says why.
  await claim(ana, /Web shop/)
    .getByRole("textbox")
    .fill("30");
  await expect(aside(ana).getByText(/more are given than there are/)).toBeVisible();
  await expect(tray(ana).getByRole("button", { name: /^Apply/ })).toBeDisabled();
  await claim(ana, /Web shop/)
    .getByRole("textbox")
    .fill("12");
  await claim(ana, /Web shop/)
    .getByRole("textbox")
    .press("Escape");
  await expect(tray(ana).getByRole("button", { name: /^Apply 2/ })).toBeEnabled();
  await ana.keyboard.press("a");
  await expect(toast(ana, "GL-2040-1: gave back 18 units, allocated 36 units, on 2 lines.")).toBeVisible();
  await expect(tray(ana)).toHaveCount(0);
  await expect(school.getByRole("img")).toHaveAccessibleName("60 allocated");
  await takeBack(ana, /^GL-2040-1: gave back/);
  await expect(school.getByRole("img")).toHaveAccessibleName("24 allocated, 36 lacking");

  // The next item with one key.
  await ana.keyboard.press("]");
  await expect(ana.getByRole("heading", { name: /GL-2040-1/ })).toHaveCount(0);
});

test("a whole order that waits for one line of five is helped by dragging from another, and what a policy would do is tried", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?q=Millrace+College");
  await ana.getByRole("row", { name: /4\/5/ }).getByRole("link").first().click();
  const short = ana.getByRole("row", { name: /KF-320/ });
  await short.click();
  await expect(aside(ana).getByText(/5 are open; 0 are free at HL/)).toBeVisible();
  await ana.getByRole("link", { name: "Who else wants it?" }).click();
  await expect(ana.getByRole("heading", { name: /KF-320/ })).toBeVisible();
  const from = claim(ana, /Tidewrack College/);
  const to = claim(ana, /Millrace College/);
  // By keys, from the button of the row: taken up, over another line, and put back; then by the pointer.
  await from.click();
  await ana
    .getByRole("button", { name: /^Take up the units of/, disabled: false })
    .and(from.getByRole("button"))
    .focus();
  await ana.keyboard.press("Enter");
  await ana.keyboard.press("Tab");
  await ana.keyboard.press("Escape");
  await expect(tray(ana)).toHaveCount(0);
  await ana.keyboard.press("Enter");
  for (let i = 0; i < 10 && !(await to.evaluate((row) => row === document.activeElement)); i++) await ana.keyboard.press("Tab");
  await expect(to).toBeFocused();
  await ana.keyboard.press("Enter");
  await expect(to.getByRole("img")).toHaveAccessibleName("3 allocated, 5 more");
  await ana.keyboard.press("Escape");
  await expect(tray(ana)).toHaveCount(0);
  await from.dragTo(to);
  await expect(to.getByRole("img")).toHaveAccessibleName("3 allocated, 5 more");
  await expect(from.getByRole("img")).toHaveAccessibleName(/5 fewer/);
  await expect(aside(ana).getByText(/becomes complete/)).toBeVisible();
  await expect(tray(ana)).toContainText("Complete orders 0 → 1");
  await tray(ana)
    .getByRole("button", { name: /^Apply 2 changes/ })
    .click();
  await expect(toast(ana, /^KF-320: gave back 5 units/)).toBeVisible();
  await takeBack(ana, /^KF-320: gave back/);

  // What a policy would do if all were given back is shown, and dropped.
  await ana.getByLabel("As policy").selectOption("By date");
  await expect(tray(ana)).toContainText("Tried on");
  await ana.keyboard.press("Escape");
  await expect(tray(ana)).toHaveCount(0);
});

test("what an order on hold keeps while others lack it is seen on Shortages, and given back from there", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/shortages?sku=GL-2040-1&warehouse=HL");
  const held = claim(ana, /SO-10701/);
  await expect(held.getByRole("img")).toHaveAccessibleName(/^36 allocated/);
  await expect(ana.getByText(/^Kept by/)).toHaveCount(0);
  await ana.goto("/orders/SO-10701");
  await expect(ana.getByRole("heading", { name: /SO-10701/ })).toBeVisible();
  await ana.keyboard.press("h");
  await expect(ana.getByRole("dialog")).toBeVisible();
  await ana.keyboard.type("They have two bills open");
  await ana.keyboard.press("Enter");
  await expect(toast(ana, /hold/)).toBeVisible();
  await ana.goto("/shortages?sku=GL-2040-1&warehouse=HL");
  await expect(ana.getByText(/^Kept by 1 order on hold: 36 units, while other orders lack \d+\./)).toBeVisible();
  await ana.keyboard.press("b");
  await expect(held.getByRole("img").last()).toHaveAccessibleName(/36 fewer/);
  await expect(ana.getByText(/^Kept by/)).toHaveCount(0);
  await expect(tray(ana).getByRole("button", { name: /^Apply 1 change/ })).toBeVisible();
  await nothingSerious(ana);
  await ana.keyboard.press("Escape");
  await expect(ana.getByText(/^Kept by/)).toBeVisible();
  // The hold is lifted again, for the other tests.
  await ana.goto("/orders/SO-10701");
  await ana.getByRole("button", { name: /Lift/ }).first().click();
  await expect(toast(ana, /hold/)).toBeVisible();
});

test("a school wants 144 bags by Tuesday week: room is made among the promises of others, with proof, and they are told", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  const day = inDays(6);
  await ana.goto(`/promise?sku=CB-110&qty=144&wished=${day}&warehouse=HL`);
  const ways = ana.getByRole("grid", { name: "Ways to serve it" }).getByRole("row");
  await expect(ways.nth(1)).toContainText("96 of 144");
  await ana.getByRole("combobox", { name: /Customer/ }).fill("Aldersyke");
  await ana.getByRole("option", { name: /Aldersyke College/ }).click();
  await expect(ana).toHaveURL(/customer=/);
  await expect(ways.nth(1)).toContainText("of 144");
  await ana.keyboard.press("m");
  const dialog = ana.getByRole("dialog");
  await expect(dialog.getByText("Proven minimum.")).toBeVisible();
  // The customer's standing is beside it.
  await expect(dialog.getByText("Rank by value")).toBeVisible();
  await expect(dialog.getByText("Lines on time")).toBeVisible();
  await nothingSerious(ana);
  const rows = dialog.locator("tbody tr");
  // The two that are put back are all that helps: without one of them there is no way, and it says so.
  await rows.first().getByRole("button", { name: "Exclude" }).click();
  await expect(dialog.getByText(/Even if all promises that may be postponed were/)).toBeVisible();
  await dialog.getByRole("button", { name: "All may" }).click();
  await expect(rows.first().getByRole("button")).toBeVisible();
  // By hand one is not enough, and it says what is lacking.
  await dialog.getByRole("radio", { name: /By hand/ }).click();
  await dialog.getByRole("checkbox").first().click();
  await expect(dialog.getByText(/still lacking|This is enough/).first()).toBeVisible();
  await dialog.getByRole("radio", { name: /Least harm/ }).click();
  const order = (await rows.first().innerText()).match(/SO-\d+/)?.[0] ?? "";
  await dialog.getByRole("button", { name: /^Postpone \d+ lines?/ }).click();
  await expect(toast(ana, /144 of CB-110 can be promised to Aldersyke College/)).toBeVisible();
  await expect(ways.nth(1)).toContainText("144 of 144");

  // Who was put back has the reason in the trail, and a message that is ready.
  const tom = await signIn(browser, "sales");
  await tom.goto(`/orders/${order}`);
  await expect(tom.getByLabel("Trail").getByText(/put the promise of CB-110.*to make room for Aldersyke College/)).toBeVisible();
  await tom.getByText(/^Your order .* another day for/).click();
  await expect(tom.getByText(/We are sorry that it will leave us later/)).toBeVisible();
  await nothingSerious(tom);
  await takeBack(ana, /can be promised to Aldersyke/);
  await expect(ways.nth(1)).toContainText("96 of 144");
});

test("room is made and the order of who asks is entered in the same step", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost,buyable\nZX-1,A tight thing,2.00,1.00,no\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZX-1,A-1-1,20\n",
    "inbound.csv": `ref,sku,warehouse,due,qty\nPX-1,ZX-1,HL,${inDays(30)},50\n`,
    "orders.csv": `order,customer,wanted,line,sku,warehouse,qty,tier\nSO-9701,WEB,${inDays(16)},1,ZX-1,HL,20,5\n`,
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/orders/SO-9701");
  await ana.getByRole("button", { name: /^Promise the rest/ }).click();
  await expect(toast(ana, /^Promised/)).toBeVisible();

  await ana.goto(`/promise?sku=ZX-1&qty=15&wished=${inDays(16)}&warehouse=HL`);
  await ana.getByRole("combobox", { name: /Customer/ }).fill("Brackenfield");
  await ana
    .getByRole("option", { name: /Brackenfield/ })
    .first()
    .click();
  await expect(ana).toHaveURL(/customer=/);
  await expect(ana.getByRole("grid", { name: "Ways to serve it" }).getByRole("row").nth(1)).toContainText("of 15");
  await ana.keyboard.press("m");
  const dialog = ana.getByRole("dialog");
  await expect(dialog.getByText("Proven minimum.")).toBeVisible();
  await expect(dialog.getByRole("row", { name: /SO-9701/ })).toBeVisible();
  await nothingSerious(ana);
  await dialog.getByRole("button", { name: "Postpone and enter the order" }).click();
  const told = toast(ana, /^Postponed the promises of 1 order\. Entered SO-/);
  await expect(told).toContainText("15 of ZX-1 promised for");
  // The order is before her, to be read back to the customer.
  await expect(ana).toHaveURL(/\/orders\/SO-/);
  await expect(ana.getByRole("img", { name: "Line 1: promised 15" })).toBeVisible();
  await ana.goto("/orders/SO-9701");
  await expect(ana.getByLabel("Trail").getByText(/put the promise of ZX-1.*room was made for Brackenfield/)).toBeVisible();

  // What takes its time says so, and can be cancelled.
  await ana.route("**/api/allocate", () => undefined);
  await expect(ana.getByRole("button", { name: "Allocate what is free" })).toBeEnabled();
  const asked = ana.waitForRequest("**/api/allocate");
  await ana.keyboard.press("a");
  await asked;
  await expect(toast(ana, /^Working/)).toBeVisible();
  await nothingSerious(ana);
  await ana.getByRole("button", { name: "Cancel" }).click();
  await expect(toast(ana, "Stopped. Nothing was changed.")).toBeVisible();
  await expect(toast(ana, /^Working/)).toHaveCount(0);
});

test("two coordinators apply at once: one is refused with a sentence, and sees the new plan", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const max = await signIn(browser, "manager");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost,buyable\nZR-1,A raced thing,2.00,1.00,no\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZR-1,A-1-1,10\n",
    "orders.csv":
      "order,customer,wanted,line,sku,warehouse,qty,tier,entered\nSO-9501,WEB,2099-03-01,1,ZR-1,HL,8,3,2026-01-01\nSO-9502,WEB,2099-03-02,1,ZR-1,HL,8,1,2026-01-02\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();

  const ask = "/allocation?order=SO-9501,SO-9502";
  for (const page of [ana, max]) {
    await page.goto(ask);
    await expect(page.getByText("2 chosen orders", { exact: false })).toBeVisible();
    await page.keyboard.press("e");
    await expect(tray(page)).toContainText("10 units on 2 lines");
  }
  // By tier the second order comes first; the reason is told.
  const lacks = ana.getByRole("row", { name: /SO-9501/ });
  await expect(lacks).toContainText("SO-9502 line 1 (tier 1");
  await nothingSerious(ana);
  // Applying takes too long and is cut off: nothing was changed, and the plan still stands.
  await ana.route("**/api/apply-run", () => undefined);
  await ana.keyboard.press("a");
  await ana.getByRole("button", { name: "Cancel" }).click();
  await expect(toast(ana, "Stopped. Nothing was changed.")).toBeVisible();
  await expect(tray(ana)).toContainText("10 units on 2 lines");
  await ana.unroute("**/api/apply-run");

  await ana.keyboard.press("a");
  await expect(toast(ana, /^By tier and date: allocated 10 units on 2 lines of 2 orders/)).toBeVisible();
  // It stands among what was run, from where it can be taken back, and the way on is shown.
  const run = ana.getByRole("row", { name: /allocated 10 units on 2 lines/ });
  await expect(run).toContainText("Ana Ruiz");
  await expect(run.getByRole("button", { name: "Undo" })).toBeEnabled();
  await expect(ana.getByRole("link", { name: "release it" })).toBeVisible();

  // What Max sees is out of date; he applies, is refused, and has the new plan before him.
  await max.keyboard.press("a");
  await expect(max.getByRole("alert")).toContainText("The book has changed since you rehearsed: Ana Ruiz allocated");
  await expect(tray(max)).toContainText("0 units on 0 lines");
  await expect(tray(max).getByRole("button", { name: /^Apply/ })).toBeDisabled();

  // Why is kept with the line.
  await max.goto("/orders/SO-9501");
  await expect(aside(max).getByText(/6 of 8: SO-9502 line 1 \(tier 1.* came first by tier/)).toBeVisible();
  await aside(max).getByRole("button", { name: "Details" }).click();
  await expect(max.getByRole("dialog")).toContainText("By tier and date, run by Ana Ruiz");
  await expect(max.getByRole("dialog")).toContainText("took 8, first by tier");
  await nothingSerious(max);
});

test("what more stock or a higher tier would change for the whole book is asked by the keyboard, and nothing is changed", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/shortages?sku=GL-2040-1&warehouse=HL");
  await expect(ana.getByRole("heading", { name: /^GL-2040-1/ })).toBeVisible();
  await ana.keyboard.press("ArrowDown");
  await ana.keyboard.press("w");
  await expect(ana.getByLabel("Units more on hand")).toBeFocused();
  await ana.keyboard.type("400");
  await ana.keyboard.press("Enter");
  const answer = ana.getByRole("region", { name: "What if" });
  await expect(answer).toContainText("400 more of GL-2040-1 on hand at HL");
  await expect(answer).toContainText(/lines? would be allocated more, 0 less/);
  await expect(answer.getByRole("table", { name: "Lines that would be allocated otherwise" }).getByRole("row").nth(1)).toBeVisible();
  await answer.getByRole("button", { name: "In tier 5" }).click();
  await expect(answer).toContainText(/in tier 5 instead of \d/);
  await answer.getByLabel("Days sooner").fill("3");
  await answer.getByLabel("Days sooner").press("Enter");
  await expect(answer).toContainText(/to ship by .+ instead of/);
  await nothingSerious(ana);
});

test("a manager composes a policy, compares it with another, and it is dropped again", async ({ browser }) => {
  const max = await signIn(browser, "manager");
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/policies");
  await expect(ana.getByRole("button", { name: /^New policy/ })).toBeDisabled();

  await max.goto("/policies");
  await expect(max.getByRole("row", { name: /By tier and date/ })).toContainText("the default");
  await max.keyboard.press("c");
  await max.getByLabel("Name").fill("The dear first");
  await max.getByLabel("Add a key").selectOption("value");
  await max.getByRole("button", { name: "Value, greatest first earlier" }).click();
  await max.getByLabel("Lines that are equal in all of them").selectOption("fair");
  await max.getByRole("button", { name: "Reserve stock" }).click();
  await max.getByLabel("Percent").fill("25");
  await nothingSerious(max);
  await max.getByRole("button", { name: "Save" }).click();
  await expect(toast(max, "Made the policy The dear first.")).toBeVisible();
  const row = max.getByRole("row", { name: /The dear first/ });
  await expect(row).toContainText(
    "Serves by value, then tier; equals share, each the same part of what it wants; keeps 25 % of everything for tier 1.",
  );
  // A colleague sees it without reloading.
  await expect(ana.getByRole("row", { name: /The dear first/ })).toBeVisible();

  await row.getByRole("link", { name: "Rehearse" }).click();
  await max.getByLabel("Compare with").selectOption("Most orders complete");
  await max.keyboard.press("Tab");
  await max.getByRole("button", { name: /^Rehearse/ }).click();
  await expect(max.getByRole("radio", { name: "Most orders complete" })).toBeVisible();
  await expect(max.getByText(/Most orders complete: (proved|tier)/)).toBeVisible();
  await expect(max.getByRole("button", { name: /^Differ · / })).toHaveAttribute("aria-pressed", "true");
  await max.getByRole("radio", { name: "Most orders complete" }).click();
  await expect(tray(max)).toContainText("Rehearsed Most orders complete");
  await nothingSerious(max);
  await max.keyboard.press("Escape");
  await expect(tray(max)).toHaveCount(0);

  await max.goto("/policies");
  await row.getByRole("button", { name: "Delete" }).click();
  await expect(toast(max, "Deleted the policy The dear first.")).toBeVisible();
  await expect(row).toHaveCount(0);
});

test("a stock count that breaks allocations gives back and allocates anew in the same step", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost,buyable\nZK-1,A counted thing,2.00,1.00,no\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZK-1,A-1-1,10\n",
    "orders.csv":
      "order,customer,wanted,line,sku,warehouse,qty,tier\nSO-9601,WEB,2099-03-01,1,ZK-1,HL,7,3\nSO-9602,WEB,2099-03-02,1,ZK-1,HL,3,1\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  for (const n of ["SO-9601", "SO-9602"]) {
    await ana.goto(`/orders/${n}`);
    await expect(ana.getByRole("button", { name: /^Allocate what is free/ })).toBeEnabled();
    await ana.keyboard.press("a");
    await expect(toast(ana, /^Allocated/)).toBeVisible();
  }
  await importFiles(ana, {
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZK-1,A-1-1,8\n",
  });
  await expect(ana.getByText("10 allocated, 8 are left for them")).toBeVisible();
  const row = ana.getByRole("row", { name: /SO-9601/ });
  await expect(row).toContainText("SO-9602 line 1 (tier 1");
  await nothingSerious(ana);
  await ana.getByRole("button", { name: "Apply it, give back and allocate anew" }).click();
  await expect(toast(ana, /Given back and allocated anew by By tier and date: 1 item/)).toBeVisible();
  await ana.goto("/orders/SO-9601");
  await expect(ana.getByRole("img", { name: "Line 1: open 2, allocated 5" })).toBeVisible();
});
