import { expect } from "@playwright/test";
import { importFiles, nothingSerious, signIn, test, toast } from "./help";

test("a hold stops a release, a recall stops the floor, and what is dropped can be opened again", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZW-1,A worked thing,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZW-1,A-1-1,30\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nSO-9300,WEB,2099-03-01,1,ZW-1,HL,20\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/orders/SO-9300");
  const bar = (text: string) => expect(ana.getByRole("img", { name: `Line 1: ${text}` })).toBeVisible();
  await bar("open 20");

  // Part of a line by its quantity, where it is shown.
  await ana.getByLabel("Units to allocate").fill("12");
  await ana.keyboard.press("Enter");
  await bar("open 8, allocated 12");

  // A hold says why wherever the order is seen, and nothing goes to the floor.
  await ana.keyboard.press("h");
  await ana.getByLabel(/^Why/).fill("Address to be confirmed");
  await ana.keyboard.press("Enter");
  await expect(ana.getByText("Address to be confirmed Ana Ruiz", { exact: false })).toBeVisible();
  await expect(ana.getByRole("button", { name: /^Release/ }).first()).toBeDisabled();
  await ana.goto("/orders?state=held&q=SO-9300");
  await expect(ana.getByRole("row", { name: /SO-9300/ })).toContainText("coordinator");
  await ana.goto("/orders/SO-9300");
  await ana.getByRole("button", { name: "Lift the hold" }).click();
  await expect(ana.getByRole("button", { name: /^Release · 12/ })).toBeEnabled();

  // Released, then recalled before anybody has picked it.
  await ana.keyboard.press("r");
  await bar("open 8, released 12");
  await ana.getByLabel("Trail").getByRole("link", { name: /^PL-/ }).first().click();
  await ana.getByRole("button", { name: "Recall" }).click();
  await expect(toast(ana, /^Recalled 12 of ZW-1/)).toBeVisible();
  await ana.goto("/orders/SO-9300");
  await bar("open 8, allocated 12");

  // Dropped with a reason, and opened again.
  await ana.keyboard.press("d");
  await ana.getByLabel(/^Why/).fill("No longer made");
  await ana.keyboard.press("Enter");
  await bar("allocated 12, dropped 8");
  await expect(ana.getByRole("button", { name: /^Reopen · 8/ })).toBeEnabled();
  await ana.keyboard.press("o");
  await bar("open 8, allocated 12");
  await ana.keyboard.press("b");
  await bar("open 20");
});

test("a list keeps its filters in its address and sorts on the server", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/orders?sort=value&down=true");
  const money = async () =>
    (await ana.locator("tr[data-row]").allInnerTexts()).map((t) => Number(/£([\d,]+\.\d\d)/.exec(t)?.[1]?.replaceAll(",", "")));
  await expect(ana.locator("tr[data-row]").first()).toBeVisible();
  const values = await money();
  expect(values.length).toBeGreaterThan(20);
  expect(values).toEqual([...values].sort((a, b) => b - a));
  await ana.keyboard.press("f");
  await ana.keyboard.type("celadon");
  await expect(ana).toHaveURL(/q=celadon/);
  await expect(ana.locator("tbody tr").first()).toBeVisible();
  const url = ana.url();
  await ana.goto("/");
  await ana.goto(url);
  await expect(ana.getByLabel(/customer, item/)).toHaveValue("celadon");
  // A list with nothing in it says why, and what to do.
  await ana.goto("/orders?q=nothing-is-called-this");
  await expect(ana.getByText("No order of this kind fits.")).toBeVisible();
  await ana.getByRole("button", { name: "Look in all orders" }).click();
  await expect(ana.getByText("No order fits this.")).toBeVisible();
  await expect(ana.locator("tbody tr")).toHaveCount(0);
});

test("all that could go is released at once, listed or not, but for what is held back", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const numbers = Array.from({ length: 60 }, (_, i) => `SO-${9400 + i}`);
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZA-1,A thing to go,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZA-1,A-1-1,60\n",
    "orders.csv": `order,customer,wanted,line,sku,warehouse,qty\n${numbers.map((n) => `${n},WEB,2099-03-01,1,ZA-1,HL,1\n`).join("")}`,
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.evaluate(
    async (orders) => {
      const headers = { "Content-Type": "application/json", "Idempotency-Key": crypto.randomUUID() };
      await fetch("/api/allocate", { method: "POST", headers, body: JSON.stringify({ ask: { orders } }) });
    },
    numbers.map((number) => ({ number, seen: 0 })),
  );

  await ana.goto("/release?q=ZA-1&until=2099-12-31");
  await expect(ana.locator("#page-title + div")).toHaveText("60 lines");
  const rows = ana.locator("tr[data-row]");
  await expect(rows.first()).toBeVisible();
  await ana.keyboard.press("Shift+A");
  const tray = ana.getByRole("region", { name: "Tray" });
  await expect(tray).toContainText("60 lines of 60 orders");
  await ana.keyboard.press("Space");
  await expect(tray).toContainText("59 lines of 59 orders");
  // The list goes on as the focus comes near its end.
  for (let i = 0; i < 8; i++) await ana.keyboard.press("PageDown");
  await expect(ana.locator('tr[data-focus="true"]')).toHaveAttribute("aria-rowindex", "61");
  await expect(tray).toContainText("59 units");
  await nothingSerious(ana);
  await ana.keyboard.press("r");
  await expect(toast(ana, /^Released 59 units of 59 orders on PL-/)).toBeVisible();
  await expect(ana.locator("#page-title + div")).toHaveText("1 line");
  await expect(rows).toHaveCount(1);
  await expect(tray).toHaveCount(0);
  // What could not go is listed by its reason, with what to do about it, and nothing of it can be chosen.
  await ana.goto("/release?until=2099-12-31");
  const kept = ana.getByRole("region", { name: "Not offered" });
  const reason = kept.getByRole("button", { name: /order not complete/ });
  const count = Number(/^\d+/.exec(await reason.innerText())?.[0]);
  await reason.click();
  await expect(ana.getByRole("grid", { name: "Lines that cannot go" })).toBeVisible();
  await expect(ana.locator("#page-title + div")).toHaveText(new RegExp(`^${count} lines?$`));
  await expect(ana.getByRole("checkbox")).toHaveCount(0);
  await expect(kept).toContainText("Allocate the rest of the order, or drop it");
  // By customer, the heads say how much is allocated; a part of a line goes with what was typed.
  await kept.getByRole("button", { name: "Back to what could go" }).click();
  await ana.getByLabel("Group the rows").selectOption("By customer");
  await expect(ana.locator("tr[data-group]").first()).toContainText(/[\d,]+ alloc/);
  await ana.getByLabel("Group the rows").selectOption("No groups");
  await ana.getByRole("button", { name: "Alloc.", exact: true }).click();
  await ana.getByRole("button", { name: "Alloc.", exact: true }).click();
  await expect(ana.getByRole("columnheader", { name: /^Alloc/ })).toHaveAttribute("aria-sort", "descending");
  const field = ana.locator("tr[data-focus=true] input.qty");
  await field.fill("2");
  await expect(tray).toContainText("1 line of 1 order2 units");
  await field.fill("0");
  await expect(tray).toHaveCount(0);
});
