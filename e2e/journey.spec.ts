import { readFileSync } from "node:fs";
import { expect } from "@playwright/test";
import { importFiles, signIn, test, toast } from "./help";

const example = (name: string) => readFileSync(`../examples/${name}.csv`, "utf8");

// The examples, under numbers of their own so that they do not meet the demo's book.
function files() {
  const own = (text: string) =>
    text
      .replaceAll("GL-2040-1", "ZG-2040")
      .replaceAll("TL-014", "ZT-014")
      .replaceAll("CB-110", "ZC-110")
      .replaceAll("GL-1310-5", "ZG-1310")
      .replaceAll("KF-330", "ZF-330")
      .replaceAll("KL-070", "ZL-070")
      .replaceAll("PO-733", "PZ-733")
      .replaceAll("PO-734", "PZ-734");
  return {
    "items.csv": own(example("items")),
    "stock.csv": own(example("stock")),
    "customers.csv": example("customers"),
    "inbound.csv": own(example("inbound")).replace("2027-03-10", "2099-03-10").replace("2027-03-22", "2099-03-22"),
    "orders.csv": own(example("orders")),
  };
}

test("an order travels from five files to the door in two parts, and a second browser sees it", async ({ browser }) => {
  test.setTimeout(120_000);
  const ana = await signIn(browser, "coordinator");
  const max = await signIn(browser, "manager");

  // Five files go in: first what would happen, then all of it.
  await importFiles(ana, files());
  await expect(ana.getByText("28 rows would change something.")).toBeVisible();
  await ana.getByRole("region", { name: "What would happen" }).getByText("orders.csv").click();
  await expect(ana.getByRole("cell", { name: "SO-1001 line 1, 100 of ZG-2040" })).toBeVisible();
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /Imported items: 6 new/)).toBeVisible();

  // Both look at the order; Max will only watch.
  for (const p of [ana, max]) {
    await p.goto("/orders/SO-1001");
    await expect(p.getByRole("heading", { name: "SO-1001" })).toBeVisible();
  }

  // Allocate what is free: 68 of 100 bottles, and the tools. Max sees it without reloading.
  await ana.keyboard.press("a");
  await expect(toast(ana, "Allocated 78 units of 2 items for SO-1001.")).toBeVisible();
  await expect(max.getByRole("img", { name: "Line 1: open 32, allocated 68" })).toBeVisible();
  await expect(max.getByLabel("Trail").getByText("allocated 68 of ZG-2040, line 1")).toBeVisible();

  // Undo, and do it again.
  await ana.keyboard.press("u");
  await expect(toast(ana, /Undone/)).toBeVisible();
  await expect(max.getByRole("img", { name: "Line 1: open 100" })).toBeVisible();
  await ana.getByRole("button", { name: "Allocate what is free" }).click();
  await expect(ana.getByRole("img", { name: "Line 1: open 32, allocated 68" })).toBeVisible();

  // Release makes a pick list, in walking order.
  await ana
    .getByRole("button", { name: /^Release/ })
    .first()
    .click();
  await expect(toast(ana, /Released 78 units of 1 order on PL-/)).toBeVisible();
  const list = await ana
    .getByText(/^PL-\d+$/)
    .first()
    .textContent();

  // The floor picks; two bottles are missing and are open again.
  const flo = await signIn(browser, "floor");
  await flo.getByRole("link", { name: /^released/i }).click();
  await flo.getByRole("link", { name: list ?? "" }).click();
  const bins = flo.locator("tbody tr td:nth-child(2)");
  await expect(bins).toHaveText(["C-14-2", "C-14-9", "T-03-4"]);
  await flo.getByLabel("Picked of line 2").fill("10");
  await flo.keyboard.press("Enter");
  await expect(flo.getByRole("dialog", { name: "Fewer were found: why?" })).toBeVisible();
  await flo.getByRole("button", { name: /^Missing/ }).click();
  await expect(toast(flo, "Picked 10; 2 were not found and are open again.")).toBeVisible();
  await flo.getByRole("button", { name: /^Confirm all 2 lines/ }).click();
  await expect(flo.getByRole("link", { name: "All picked: go and pack" })).toBeVisible();
  await expect(max.getByRole("img", { name: "Line 1: open 34, picked 66" })).toBeVisible();

  // Packed into two packages with their weights.
  await flo.getByRole("link", { name: "All picked: go and pack" }).click();
  await expect(flo.getByRole("heading", { level: 1, name: /packing/ })).toBeVisible();
  await flo.goto("/packing?q=SO-1001"); // others may be more urgent
  await flo.getByRole("row", { name: /SO-1001/ }).click();
  await flo.getByRole("button", { name: "Onto pallets" }).click();
  await expect(flo.getByLabel("ZG-2040 in package 2")).toHaveCount(0);
  await flo.getByLabel("ZG-2040 in package 1").fill("40");
  await flo.getByRole("button", { name: "Another package" }).click();
  await flo.getByLabel("Weight of package 1 in kg").fill("58,5");
  await expect(flo.getByLabel("ZG-2040 in package 2")).toHaveValue("26");
  await flo.getByRole("button", { name: /^Pack 2 packages/ }).click();
  await expect(toast(flo, /Packed 76 units of SO-1001 into 2 packages of shipment SH-/)).toBeVisible();

  // Dispatched: a tracking number, and only now stock falls.
  await max.goto("/items/ZG-2040");
  await expect(max.getByRole("row", { name: /^Harrow Lane 70 4 0 66 0/ })).toBeVisible();
  await flo.getByRole("link", { name: /^packed/i }).click();
  const row = flo.getByRole("row", { name: /SO-1001/ });
  await row.getByRole("checkbox").check();
  await flo.keyboard.press("d");
  await expect(toast(flo, /Dispatched SH-\d+ with .+, tracking JS\d{10}/)).toBeVisible();
  await expect(max.getByRole("row", { name: /^Harrow Lane 4 4 0 0 0/ })).toBeVisible();

  // The stand-in delivers by itself a few seconds later.
  await ana.goto("/orders/SO-1001");
  await expect(ana.getByRole("img", { name: "Line 1: open 34, delivered 66" })).toBeVisible({ timeout: 30_000 });

  // An arrival comes in, in part.
  await flo.goto("/inbound?q=PZ-733");
  await flo
    .getByRole("button", { name: /^Receive/ })
    .first()
    .click();
  await flo.getByLabel("Units that arrived").fill("50");
  await flo.keyboard.press("Enter");
  await expect(toast(flo, /^Received 50 of ZG-2040 at HL from PZ-733\. Still to come: 50 units\./)).toBeVisible();

  // Two are dropped with a reason; the rest follows, by the keyboard, and is delivered on the button.
  await expect(ana.getByRole("button", { name: /^Allocate what is free · 34/ })).toBeVisible();
  const detail = ana.locator("tr", { hasText: "goes in packs" }).or(ana.locator("tbody tr:nth-child(2)"));
  await detail.getByRole("button", { name: "Drop", exact: true }).click();
  await ana.getByLabel("Units to drop").fill("2");
  await ana.keyboard.press("Enter");
  await ana.getByLabel(/^Why/).fill("The customer needs two fewer");
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("img", { name: "Line 1: open 32, delivered 66, dropped 2" })).toBeVisible();
  await ana.keyboard.press("a");
  await expect(
    ana.getByRole("img", {
      name: "Line 1: allocated 32, delivered 66, dropped 2",
    }),
  ).toBeVisible();
  await ana.keyboard.press("r");
  await expect(
    ana.getByRole("img", {
      name: "Line 1: released 32, delivered 66, dropped 2",
    }),
  ).toBeVisible();
  const second = await toast(ana, /^Released 32/)
    .getByRole("link", { name: /^PL-/ })
    .innerText();
  await ana.getByLabel("Trail").getByRole("link", { name: second }).first().click();
  await expect(ana.getByRole("button", { name: /^Confirm all 1 line/ })).toBeVisible();
  await ana.keyboard.press("Shift+C");
  await ana.getByRole("link", { name: "All picked: go and pack" }).click();
  await ana.goto("/packing?q=SO-1001");
  await ana.getByRole("row", { name: /SO-1001/ }).click();
  await expect(ana.getByRole("button", { name: /^Pack \d packages?/ })).toBeVisible();
  await ana.keyboard.press("p");
  await expect(toast(ana, /Packed 32 units of SO-1001/)).toBeVisible();
  await toast(ana, /Packed 32 units of SO-1001/)
    .getByRole("link", { name: /^SH-/ })
    .click();
  await ana.getByRole("button", { name: /^Dispatch/ }).click();
  await expect(toast(ana, /^Asking the carrier to take SH-/)).toBeVisible();
  await ana.getByRole("button", { name: /^Mark delivered/ }).click();
  await expect(toast(ana, /^Delivered: /)).toBeVisible();
  await ana.goto("/orders/SO-1001");
  await expect(ana.getByText("· finished")).toBeVisible();
  await expect(ana.getByLabel("Trail").getByText("The customer needs two fewer")).toBeVisible();
});

test("a stale click is refused with a sentence that says what changed", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const max = await signIn(browser, "manager");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZS-1,A stale thing,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZS-1,A-1-1,10\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nSO-9002,WEB,2099-03-01,1,ZS-1,HL,4\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await max.goto("/orders/SO-9002");
  await expect(max.getByRole("button", { name: /^Allocate what is free ·/ })).toBeVisible();
  // Max's browser hears nothing any more, so that what it shows grows old.
  await max.route("**/api/live", (r) => r.abort());
  await max.route("**/api/orders/SO-9002**", (r) => r.abort());
  await ana.goto("/orders/SO-9002");
  await ana
    .getByRole("button", { name: /^Allocate 4/ })
    .first()
    .click();
  await expect(toast(ana, /^Allocated/)).toBeVisible();
  await max.keyboard.press("a");
  await expect(
    toast(max, /Refused\. SO-9002 has changed since you saw it: Ana Ruiz allocated 4 at \d\d:\d\d\. Nothing was done/),
  ).toBeVisible();
});

test("an import with a fault says where it is and changes nothing", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "orders.csv": "order,customer,wanted,line,sku,qty\nSO-7,WEB,soon,1,GL-2040-1,3\n",
  });
  await expect(ana.getByText("1 fault: nothing can be applied")).toBeVisible();
  const row = ana.getByRole("row", { name: /orders\.csv/ });
  await expect(row.getByRole("cell")).toHaveText([
    "orders.csv",
    "wanted",
    "“soon”",
    /^a day as YYYY-MM-DD, such as 2027-03-01If all days in the file are written like this, change how it is read\.$/,
    "1",
    "2",
  ]);
  await expect(ana.getByRole("button", { name: "Apply all of it" })).toHaveCount(0);
});
