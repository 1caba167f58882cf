import { expect } from "@playwright/test";
import { importFiles, nothingSerious, signIn, test, toast } from "./help";

test("Today lists what waits, the most urgent first, and takes each step where it stands", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const dear = (order: string, price: string) => `${order},WEB,2020-03-01,1,ZT-1,HL,4,1,${price},2020-03-01\n`;
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZT-1,A thing that waits,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZT-1,A-1-1,8\n",
    "orders.csv":
      "order,customer,wanted,line,sku,warehouse,qty,tier,price,ship_by\n" + dear("SO-9401", "90000.00") + dear("SO-9402", "95000.00"),
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/?show=office");
  const row = (number: string) => ana.getByRole("row", { name: new RegExp(number) });
  await expect(row("SO-9402")).toContainText("4 of ZT-1 could have stock");
  await expect(row("SO-9402")).toContainText("late");
  // What weighs more comes first, and the next step changes with what has been done.
  const order = async () =>
    (await ana.locator("tr[data-row]").allInnerTexts()).filter((t) => /SO-940/.test(t)).map((t) => /SO-\d+/.exec(t)?.[0]);
  expect(await order()).toEqual(["SO-9402", "SO-9401"]);
  await row("SO-9402").getByText("4 of ZT-1").click();
  await expect(ana.getByLabel("Lookaside").getByText("SO-9402").first()).toBeVisible();
  await ana.keyboard.press("Enter");
  await expect(toast(ana, /^Allocated 4/)).toBeVisible();
  await expect(row("SO-9402")).toContainText("4 units allocated on 1 line");
  await ana.getByRole("button", { name: "Release SO-9402" }).click();
  await expect(toast(ana, /^Released 4/)).toBeVisible();
  await expect(row("SO-9402")).toHaveCount(0);
  await ana.getByRole("button", { name: "Floor" }).click();
  await expect(ana.getByRole("button", { name: /^Pick PL-/ }).first()).toBeVisible();
  await nothingSerious(ana);

  // The floor is shown what it does, and nothing else.
  const flo = await signIn(browser, "floor");
  await flo.goto("/");
  await expect(flo.getByRole("button", { name: /^Pick PL-/ }).first()).toBeVisible();
  await expect(flo.getByRole("button", { name: /^(Release|Allocate|Decide|Accept) / })).toHaveCount(0);
});
