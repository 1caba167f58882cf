import { expect, type Page } from "@playwright/test";
import { field, importFiles, inDays, nothingSerious, signIn, test, toast } from "./help";

const row = (page: Page, n: number) => page.getByRole("table", { name: "Lines" }).locator("tbody tr").nth(n);

/** Five items of our own, so that no other test takes them. */
async function stock(page: Page, p: string) {
  await importFiles(page, {
    "items.csv":
      "sku,name,price,cost,buyable,lead_days,multiple\n" +
      `${p}-1,Plenty of ${p},10.00,6.00,yes,10,1\n${p}-2,Few of ${p},20.00,12.00,yes,10,1\n${p}-3,None of ${p},30.00,18.00,no,0,1\n` +
      `${p}-4,Instead of ${p},31.00,18.00,yes,10,1\n${p}-5,Packs of ${p},1.50,0.90,yes,10,6\n${p}-6,Free gift ${p},0,0.10,yes,10,1\n`,
    "substitutes.csv": `sku,substitute,kind\n${p}-3,${p}-4,colour\n`,
    "stock.csv": `warehouse,sku,bin,on_hand\nHL,${p}-1,A-1-1,500\nHL,${p}-2,A-1-2,8\nDQ,${p}-2,Y-1,40\nHL,${p}-4,A-1-4,60\nHL,${p}-5,A-1-5,600\nHL,${p}-6,A-1-6,50\n`,
    "inbound.csv": `ref,sku,warehouse,due,qty\nPE-${p},${p}-2,HL,${inDays(12)},50\n`,
    "customers.csv": `customer,name,tier,ship_to,warehouse,service,discount,street,city,postcode\n${p},Customer ${p},2,MAIN,HL,overnight,10,1 High Street,${p}ton,${p} 1AA\n${p},Customer ${p},2,YARD,HL,overnight,10,2 Low Street,${p}ton,${p} 2AA\n`,
  });
  await page.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(page, /^Imported/)).toBeVisible();
}

test("an order of five lines is entered without the mouse, the answer beside each line", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QA");
  await ana.goto("/orders?q=QA&state=all");
  await expect(ana.getByText("No order fits this.")).toBeVisible();
  const tom = await signIn(browser, "sales");
  await tom.keyboard.press("n");
  await expect(tom.getByRole("heading", { name: "New order or quote" })).toBeVisible();
  await expect(tom.getByLabel("Customer", { exact: true })).toBeFocused();
  // Another hit is marked and brought into sight; Escape closes the list and keeps the field.
  await tom.keyboard.type("a");
  await expect(tom.getByRole("listbox").getByRole("option").first()).toBeVisible();
  await tom.keyboard.press("ArrowDown");
  await expect(tom.getByRole("listbox").getByRole("option", { selected: true })).toHaveCount(1);
  await tom.keyboard.press("Escape");
  await expect(tom.getByRole("listbox")).toHaveCount(0);
  await expect(tom.getByLabel("Customer", { exact: true })).toBeFocused();
  await tom.keyboard.type("customer qa");
  await tom.keyboard.press("Enter");
  await expect(field(tom, "Item, line 1")).toBeFocused();
  await expect(tom.getByText("10 % discount")).toBeVisible();
  await expect(tom.getByLabel("Ship-to")).toHaveValue("MAIN");

  // Item, Enter, quantity, Enter: as quick as typing, without waiting for what is found.
  for (const [item, qty] of [
    ["plenty qa", "120"],
    ["few qa", "20"],
    ["QA-3", "5"],
    ["qa packs", "14"],
    ["gift qa", "3"],
  ] as const) {
    await tom.keyboard.type(item);
    await tom.keyboard.press("Enter");
    await tom.keyboard.type(qty);
    await tom.keyboard.press("Enter");
    await expect(field(tom, "Item, line 1")).toHaveValue(/QA-1/);
  }
  await expect(row(tom, 0)).toContainText("1,080.00"); // 120 at 10.00 less 10 %
  await expect(row(tom, 0)).not.toContainText("late");
  await expect(row(tom, 1)).toContainText(/8 in time, 12 late: /);
  await expect(row(tom, 2)).toContainText("no supply due");
  await expect(row(tom, 4)).toContainText("No price");
  const tray = tom.getByRole("region", { name: "Tray" });
  await expect(tray).toContainText("3 lines in time, 2 late");
  await expect(tray).toContainText("the margin is not to be trusted");

  // Up to the third line: its substitute is taken with one key; to the second: in one piece.
  const aside = tom.getByRole("complementary", { name: "Lookaside" });
  await tom.keyboard.press("ArrowUp");
  await tom.keyboard.press("ArrowUp");
  await expect(aside).toContainText("It goes in packs of 6: 12 or 18.");
  await tom.keyboard.press("ArrowUp");
  await expect(aside).toContainText("QA-4 Instead of QA");
  await tom.keyboard.press("Alt+s");
  await expect(row(tom, 2)).toContainText("139.50"); // five at 31.00 less 10 %
  await expect(row(tom, 2)).not.toContainText("no day");
  await tom.keyboard.press("ArrowUp");
  await expect(aside).toContainText("DQ: all of it there");
  await tom.keyboard.press("Alt+2");
  await expect(aside.getByRole("radio", { name: /In one piece/ })).toBeChecked();
  await expect(row(tom, 1)).not.toContainText("in time");
  // The gift goes away again; the price of the packs is another.
  await field(tom, "Quantity, line 5").focus();
  await tom.keyboard.press("Control+Delete");
  await expect(row(tom, 4)).not.toContainText("QA-6");
  await tom.getByLabel("Price, line 4").focus();
  await tom.keyboard.type("2.00");
  await tom.keyboard.press("Tab");
  await expect(row(tom, 3)).toContainText("25.20");
  await nothingSerious(tom);

  await tom.keyboard.press("Control+Enter");
  await expect(toast(tom, /^Entered SO-\d+ for Customer QA: 4 lines/)).toBeVisible();
  await expect(tom.getByRole("heading", { level: 1, name: /^SO-/ })).toBeVisible();
  await expect(tom.getByRole("img", { name: "Line 1: promised 120" })).toBeVisible();
  await expect(tom.getByRole("img", { name: "Line 3: promised 5" })).toBeVisible();
  // The colleague sees it without reloading.
  await expect(ana.getByRole("link", { name: /^SO-/ }).first()).toBeVisible();
});

test("typing goes on while what was typed is still being found, and nothing of it is lost", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QS");
  const tom = await signIn(browser, "sales", "|503");
  let refuse = 3;
  await tom.route(/api\/(search|find-items)/, async (route) => {
    if (refuse-- > 0) return route.fulfill({ status: 503, body: '{"detail":"Not now."}' });
    // The answers come late, and not in the order of the questions.
    await new Promise((r) => setTimeout(r, 300 + ((refuse * 7919) % 900)));
    await route.continue().catch(() => {});
  });
  await tom.keyboard.press("n");
  await expect(field(tom, "Customer")).toBeFocused();
  const typed = [["customer qs"], ["plenty qs", "120"], ["few qs", "20"], ["nothing like it", "7"], ["qs packs", "12"]];
  for (const [i, word] of typed.flat().entries()) {
    await tom.keyboard.type(word);
    await tom.keyboard.press(i === 0 ? "Tab" : "Enter"); // either takes what was typed
  }
  await expect(tom.getByText("10 % discount")).toBeVisible();
  for (const [i, sku, qty] of [
    [1, /^QS-1 · /, "120"],
    [2, /^QS-2 · /, "20"],
    [3, /^nothing like it$/, "7"],
    [4, /^QS-5 · /, "12"],
  ] as const) {
    await expect(field(tom, `Item, line ${i}`)).toHaveValue(sku);
    await expect(field(tom, `Quantity, line ${i}`)).toHaveValue(qty);
  }
  // What is not found is said, and nothing is entered without it.
  const none = "No item is called “nothing like it”";
  await expect(row(tom, 2)).toContainText(none);
  const enter = tom.getByRole("button", { name: "Enter the order" });
  await expect(tom.getByRole("region", { name: "Tray" })).toContainText(none);
  await expect(enter).toBeDisabled();
  await field(tom, "Item, line 3").fill("qs gift");
  await tom.keyboard.press("Enter");
  await expect(field(tom, "Item, line 3")).toHaveValue(/^QS-6 · /);
  await expect(row(tom, 2)).not.toContainText(none);
  await expect(enter).toBeEnabled();
  // It is the same for whoever has seen that nothing is found, and types on.
  await field(tom, "Item, line 5").focus();
  await tom.keyboard.type("no such thing");
  await expect(tom.getByText("Nothing has “no such thing” in its number or name.")).toBeVisible();
  await tom.keyboard.press("Enter");
  await tom.keyboard.type("3");
  await expect(field(tom, "Quantity, line 5")).toHaveValue("3");
  await expect(row(tom, 4)).toContainText("No item is called “no such thing”");
});

test("what two people promise at once is refused to the second, who sees why and goes on", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QB");
  const tom = await signIn(browser, "sales");
  for (const p of [ana, tom]) {
    await p.goto("/entry?customer=QB&sku=QB-2&qty=8");
    await expect(row(p, 0)).toContainText("8");
    await expect(row(p, 0)).not.toContainText("late");
  }
  // Ana's browser hears nothing for a moment, as on a bad line: her screen is old.
  await ana.route("**/api/draft", (r) => r.abort());
  await tom.getByRole("button", { name: /^Enter the order/ }).click();
  await expect(toast(tom, /^Entered SO-/)).toBeVisible();
  await ana.keyboard.press("Control+Enter");
  await expect(toast(ana, /Refused. What can be promised of QB-2 has changed since/)).toBeVisible();
  await ana.unroute("**/api/draft");
  await expect(row(ana, 0)).toContainText("late", { timeout: 15_000 });
  await expect(row(ana, 0)).toContainText("0 of 8");
  // What has only just turned late is not taken by a key that was already on its way.
  await expect(async () => {
    await ana.keyboard.press("Control+Enter");
    await expect(toast(ana, /^Entered SO-.+ It is later than /)).toBeVisible({
      timeout: 1000,
    });
  }).toPass();
});

test("rows are pasted from a spreadsheet; what was begun is still there after a reload", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QC");
  const tom = await signIn(browser, "sales");
  await tom.goto("/entry?customer=QC");
  await expect(tom.getByText("tier 2")).toBeVisible();
  await field(tom, "Item, line 1").evaluate((field) => {
    const data = new DataTransfer();
    data.setData("text/plain", "Qty\tItem\n12\tQC-1\n3\tFew of QC\n1\tQX-9\n");
    field.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true }));
  });
  await expect(field(tom, "Item, line 1")).toHaveValue(/QC-1 · Plenty/);
  await expect(field(tom, "Item, line 2")).toHaveValue(/QC-2 · Few/);
  await expect(row(tom, 2)).toContainText("There is no item QX-9");
  await expect(tom.getByRole("button", { name: /^Enter the order/ })).toBeDisabled();
  // What is found is seen: below the field, and above it where there is no room below.
  for (const height of [800, 420]) {
    await tom.setViewportSize({ width: 1280, height });
    await field(tom, "Item, line 3").fill("qc");
    await expect(tom.getByRole("option", { name: /^QC-1 / })).toBeInViewport({ ratio: 0.9 });
    const [list, at] = [await tom.getByRole("listbox").boundingBox(), await field(tom, "Item, line 3").boundingBox()];
    expect(list!.y > at!.y).toBe(height === 800);
    await tom.keyboard.press("Escape");
  }
  await tom.setViewportSize({ width: 1280, height: 800 });
  await tom.goto("/orders");
  await tom.getByRole("link", { name: /New order/ }).click();
  await expect(field(tom, "Item, line 2")).toHaveValue(/QC-2 · Few/);
  await field(tom, "Quantity, line 3").focus();
  await tom.keyboard.press("Control+Delete");
  await expect(tom.getByRole("button", { name: /^Enter the order/ })).toBeEnabled();
  // To an address for this order only.
  await tom.getByLabel("Ship-to").selectOption({ label: "An address for this order only…" });
  await expect(tom.getByRole("region", { name: "Tray" }).getByRole("status")).toContainText("lacks the street");
  await tom.getByLabel("Street").fill("The Barn");
  await tom.getByLabel("City").fill("Fellside");
  await tom.getByLabel("Postcode").fill("FS1 1AA");
  await tom.getByRole("button", { name: /^Enter the order/ }).click();
  await expect(tom.getByText("The Barn, Fellside FS1 1AA, GB")).toBeVisible();
});

test("a quote is approved by a manager and accepted in part; the rest can still be had", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QD");
  const tom = await signIn(browser, "sales");
  const max = await signIn(browser, "manager");
  await tom.goto("/entry?customer=QD&sku=QD-1&qty=300");
  await expect(row(tom, 0)).toContainText("2,700.00");
  await tom.keyboard.type("QD-4");
  await tom.keyboard.press("Enter");
  await tom.keyboard.type("10");
  await expect(row(tom, 1)).toContainText("279.00");
  await tom.keyboard.press("Control+Shift+Enter");
  await expect(toast(tom, /^Q-\d+ for Customer QD is valid until .+ A manager has to approve it/)).toBeVisible();
  const heading = tom.getByRole("heading", { level: 1, name: /^Quote Q-/ });
  await expect(heading).toBeVisible();
  const number = (await heading.innerText()).replace("Quote ", "");
  await expect(tom.getByRole("button", { name: /^Accept it, or part of it/ })).toBeDisabled();
  await expect(tom.getByRole("button", { name: /^Approve/ })).toBeDisabled();

  await max.goto("/quotes?state=to+approve");
  await max.getByRole("link", { name: number }).click();
  await expect(max.getByRole("button", { name: /^Approve/ })).toBeEnabled();
  await nothingSerious(max);
  await max.keyboard.press("v");
  await expect(toast(max, `${number} is approved.`)).toBeVisible();

  // Tom sees it at once, and accepts 120 of the 300 for the customer.
  await expect(tom.getByRole("button", { name: /^Accept it, or part of it/ })).toBeEnabled();
  await tom.keyboard.press("a");
  await expect(tom.getByRole("heading", { name: `Accept ${number}` })).toBeVisible();
  await field(tom, "Quantity, line 1").fill("301");
  await expect(row(tom, 0)).toContainText("300 are left to accept");
  await field(tom, "Quantity, line 1").fill("120");
  await field(tom, "Quantity, line 2").fill("0");
  await expect(tom.getByLabel("Price, line 1")).toBeDisabled();
  await expect(tom.getByRole("region", { name: "Tray" })).toContainText("£1,080.00");
  await tom.keyboard.press("Control+Enter");
  await expect(toast(tom, new RegExp(`^Accepted part of ${number}: it is SO-`))).toBeVisible();
  // From the order to the quote, and back.
  await expect(tom.getByRole("img", { name: "Line 1: promised 120" })).toBeVisible();
  await tom.getByRole("main").getByRole("link", { name: number }).click();
  await expect(tom.getByText("can be accepted, part is")).toBeVisible();
  const line = tom.getByRole("table", { name: "What is quoted" }).getByRole("row").nth(1);
  await expect(line).toContainText("120");
  await expect(tom.getByRole("main").getByRole("link", { name: /^SO-/ })).toBeVisible();
  await expect(tom.getByLabel("Trail").getByText("Max Orme approved the quote")).toBeVisible();
});

test("an order is changed: what is on a pick list stays, and the trail tells", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QE");
  await ana.goto("/entry?customer=QE&sku=QE-1&qty=30");
  await expect(row(ana, 0)).toContainText("270.00");
  await ana.getByRole("button", { name: /^Enter the order/ }).click();
  await expect(ana.getByRole("img", { name: "Line 1: promised 30" })).toBeVisible();
  await ana.keyboard.press("a");
  await expect(ana.getByRole("img", { name: "Line 1: allocated 30" })).toBeVisible();
  await ana.keyboard.press("r");
  await expect(ana.getByRole("img", { name: "Line 1: released 30" })).toBeVisible();
  await ana.keyboard.press("c");
  await expect(ana.getByRole("heading", { name: /^Change SO-/ })).toBeVisible();
  await field(ana, "Quantity, line 1").fill("20");
  await expect(row(ana, 0)).toContainText("30 are on a pick list");
  await expect(ana.getByRole("button", { name: /^Change the order/ })).toBeDisabled();
  await field(ana, "Quantity, line 1").fill("42");
  await expect(row(ana, 0)).toContainText("378.00");
  await field(ana, "Item, line 2").focus();
  await ana.keyboard.type("QE-4");
  await ana.keyboard.press("Enter");
  await ana.keyboard.type("2");
  await ana.getByLabel("Why it is changed").fill("They rang");
  await ana.getByLabel("Customer’s order number").fill("QE/7");
  await nothingSerious(ana);
  await ana.keyboard.press("Control+Enter");
  await expect(toast(ana, /^Changed SO-/)).toBeVisible();
  await expect(ana.getByRole("img", { name: "Line 1: promised 12, released 30" })).toBeVisible();
  await expect(ana.getByLabel("Trail").getByText("changed the customer's order number from nothing to QE/7: They rang")).toBeVisible();
});

test("the answer on the telephone becomes an order in one step", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QF");
  const tom = await signIn(browser, "sales");
  await tom.goto("/promise?sku=QF-2&qty=20&customer=QF");
  const ways = tom.getByRole("grid", { name: "Ways to serve it" }).getByRole("row");
  await expect(ways.nth(1)).toContainText("8 of 20");
  await tom.keyboard.press("3");
  await expect(ways.nth(3)).toHaveAttribute("aria-selected", "true");
  await expect(ways.nth(3)).toContainText(/8 .+, 12 .+ from DQ/);
  await tom.keyboard.press("o");
  await expect(toast(tom, /^Entered SO-\d+ for Customer QF: 2 lines/)).toBeVisible();
  await expect(tom.getByRole("img", { name: "Line 1: promised 8" })).toBeVisible();
  await expect(tom.getByRole("img", { name: "Line 2: promised 12" })).toBeVisible();
  await tom.goto("/promise?sku=QF-1&qty=5&customer=QF");
  await expect(ways.nth(1)).toContainText("5 of 5");
  await tom.keyboard.press("q");
  await expect(toast(tom, /^Q-\d+ for Customer QF is valid until/)).toBeVisible();
});

test("more is requested to be bought, and counts once it was ordered", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await stock(ana, "QG");
  await ana.goto("/entry?customer=QG&sku=QG-5&qty=700");
  await expect(row(ana, 0)).toContainText("late");
  await ana.getByRole("button", { name: /^Enter the order/ }).click();
  await expect(toast(ana, /^Entered SO-/)).toBeVisible();
  await ana.goto("/items/QG-5");
  await expect(ana.getByRole("button", { name: /^Request to buy/ })).toBeEnabled();
  await ana.keyboard.press("b");
  const ask = ana.getByRole("dialog", { name: "Request to buy QG-5" });
  await expect(ask.getByText(/102 are lacking|100 are lacking/)).toBeVisible();
  await expect(ask.getByLabel("Units")).toHaveValue("102"); // whole packs of six
  await ask.getByRole("button", { name: /^Request it/ }).click();
  await expect(toast(ana, /^BR-\d+ asks for 102 of QG-5/)).toBeVisible();
  await expect(ana.getByText("requested, not yet ordered")).toBeVisible();

  await ana.goto("/buying?q=QG-5");
  await expect(ana.getByText("not yet ordered")).toBeVisible();
  await nothingSerious(ana);
  const file = await ana.request.get("/api/buy-requests.csv");
  expect(file.headers()["content-type"]).toContain("text/csv");
  expect(await file.text()).toMatch(/BR-\d+,QG-5,Packs of QG,HL,102,each,/);
  await ana.keyboard.press("Enter");
  const order = ana.getByRole("dialog", { name: /was ordered$/ });
  await order.getByLabel("Reference of the purchase").fill("PE-77");
  await order.getByLabel("Due").fill(inDays(5));
  await order.getByRole("button", { name: /^Expect it/ }).click();
  await expect(toast(ana, /^102 of QG-5 are expected at HL/)).toBeVisible();
  await expect(ana.getByRole("row", { name: /QG-5/ })).toContainText("PE-77");
  await ana.goto("/inbound?q=PE-77");
  await expect(ana.getByRole("row", { name: /PE-77/ })).toContainText("102");
});

test("a warehouse is closed by a calendar file, and nothing is promised for those days", async ({ browser }) => {
  const max = await signIn(browser, "manager");
  await importFiles(max, {
    "items.csv": "sku,name,price,cost,buyable,lead_days\nQH-1,A thing at the cape,2.00,1.00,no,0\n",
    "stock.csv": "warehouse,warehouse_name,sku,bin,on_hand\nCAPE,Cape Store,QH-1,A-1-1,40\n",
  });
  await max.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(max, /^Imported/)).toBeVisible();
  await max.goto("/settings");
  const cape = max.getByRole("region", { name: "Cape Store" });
  await expect(cape.getByText("on no day from today on")).toBeVisible();
  await nothingSerious(max);
  const compact = (n: number) => inDays(n).replaceAll("-", "");
  await cape.locator("input[type=file]").setInputFiles({
    name: "closed.ics",
    mimeType: "text/calendar",
    buffer: Buffer.from(
      [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Cape//EN",
        "BEGIN:VEVENT",
        "UID:1",
        "DTSTAMP:20270101T000000Z",
        `DTSTART;VALUE=DATE:${compact(0)}`,
        `DTEND;VALUE=DATE:${compact(21)}`,
        "SUMMARY:Winter rest",
        "END:VEVENT",
        "END:VCALENDAR",
        "",
      ].join("\r\n"),
    ),
  });
  await expect(toast(max, /^CAPE is closed on 21 days of the file/)).toBeVisible();
  await expect(cape.getByText("Winter rest").first()).toBeVisible();
  await max.goto("/promise?sku=QH-1&qty=10&warehouse=CAPE");
  const first = max.getByRole("grid", { name: "Ways to serve it" }).getByRole("row").nth(1);
  await expect(first).toContainText("10 of 10");
  const answer = await max.request.get("/api/promise?sku=QH-1&qty=10&warehouse=CAPE");
  const { ship_by } = (await answer.json()) as { ship_by: string };
  expect(ship_by >= inDays(21)).toBe(true);
  await max.goto("/settings");
  await cape.getByLabel("Handling").or(cape.locator("input.qty")).first().fill("2");
  await cape.getByRole("button", { name: "Save", exact: true }).click();
  await expect(toast(max, /^CAPE works as you said/)).toBeVisible();
});
