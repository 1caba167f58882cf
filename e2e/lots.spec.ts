import { expect } from "@playwright/test";
import { scanner, send } from "./floor";
import { importFiles, nothingSerious, signIn, test, toast } from "./help";

test("a lot is noted at receipt and at picking, it is told who got it, and it is recalled from wherever it is in the house", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,unit,price,cost,weight_kg,barcode,lots\nLT-1,Slip,tub,2,1,0.2,09521234543213,yes\n",
    "inbound.csv": "ref,sku,warehouse,due,qty,kind,supplier\nPO-LT,LT-1,HL,2026-01-05,40,purchase,Ropewalk\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nLT900,WEB,2099-03-01,1,LT-1,HL,12\nLT901,WEB,2099-03-01,1,LT-1,HL,9\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  // 8 of lot A7 and 32 of lot B1 come; of the second the carton's own code says what it is.
  const { flo, scan, right, wrong } = await scanner(browser);
  await flo.goto("/receive");
  await expect(flo.getByRole("button", { name: /PO-LT/ })).toBeVisible();
  await scan("LT-1");
  await right("LT-1, right item. Now its lot.");
  await scan("a7");
  await right("Lot A7. How many came? Enter for all 40.");
  await scan("8");
  await scan("LT-01-1");
  await right("8 tubs of LT-1 into LT-01-1.");
  await expect(flo.getByText("32 tubs")).toBeVisible();
  await scan("(01)09521234543213(10)B1");
  await right("How many came? Enter for all 32.");
  await expect(flo.getByText("lot B1")).toBeVisible();
  await nothingSerious(flo);
  await scan("");
  await scan("");
  await right("32 tubs of LT-1 into LT-01-1.");
  // One order is picked from both lots and leaves.
  const chosen = (...numbers: string[]) => ({ orders: numbers.map((number) => ({ number, seen: 0 })) });
  await send(ana, "/api/allocate", chosen("LT900", "LT901"));
  const list = (await send(ana, "/api/release", chosen("LT900"))).documents.find((d) => d.kind === "pick list")!.number;
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByText("lots here: A7 (8), B1 (32)")).toBeVisible();
  await nothingSerious(flo);
  await scan("LT-01-1");
  await scan("LT-1");
  await right("LT-1, right item. Now its lot.");
  await scan("A7");
  await right("Lot A7: 8 are here. Enter takes them, the rest is of another lot.");
  await scan("");
  await expect(flo.getByText("lots here: B1 (32)")).toBeVisible();
  await scan("A7");
  await scan("");
  await wrong(/LT-01-1 holds 0 of LT-1 of lot A7, not 4\. Noted there: B1 \(32\)\./);
  await flo.getByRole("button", { name: "I have read it" }).first().tap();
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByRole("region", { name: "Row 1 of 1" })).toContainText("lots here: B1 (32)");
  await scan("LT-01-1");
  await scan("LT-1");
  await right("LT-1, right item. Enter takes all 4.");
  await scan("");
  await expect(flo.getByText("All of it is picked.")).toBeVisible();
  // At the bench a line of several lots is packed lot by lot.
  await ana.goto("/packing?q=LT900");
  await ana.getByRole("row", { name: /LT900/ }).click();
  await expect(ana.getByLabel("LT-1 of lot A7 in package 1")).toHaveValue("8");
  await ana.getByLabel("LT-1 of lot B1 in package 1").fill("3");
  await ana.getByRole("button", { name: /^Pack 1 package/ }).click();
  await expect(toast(ana, /^Packed 11 units of LT900/)).toBeVisible();
  await ana.goto("/dock?q=LT900");
  await ana.getByRole("row", { name: /LT900/ }).getByRole("checkbox").check();
  await ana.keyboard.press("d");
  await expect(toast(ana, /left the house|^Dispatched|has taken/)).toBeVisible();
  // Who got it: found by its code, and there is the recall.
  await ana.keyboard.press("Control+k");
  await ana.getByRole("dialog", { name: "Find" }).getByRole("combobox").fill("b1");
  await ana.getByRole("option", { name: /B1.*LT-1/ }).click();
  await expect(ana.getByRole("heading", { level: 1, name: "Lot B1 of LT-1" })).toBeVisible();
  await expect(ana.getByText("In bins: 28 · picked or packed: 1 · left the house: 3, to 1 customer")).toBeVisible();
  await expect(ana.locator("tr[data-row]").filter({ hasText: "Shipped" })).toContainText("Web shop");
  await nothingSerious(ana);
  await ana.keyboard.press("l");
  const dialog = ana.getByRole("dialog", { name: "Recall lot B1 of LT-1?" });
  await expect(dialog).toContainText("Set aside: 28 units in 1 bin.");
  await expect(dialog).toContainText("To be put back, and set aside then: 1 unit.");
  await expect(dialog).toContainText("Orders lose 9 units at HL.");
  await nothingSerious(ana);
  await dialog.getByLabel(/^Why/).fill("the supplier found lead in it");
  await ana.keyboard.press("Enter");
  await expect(toast(ana, /^Lot B1 of LT-1 must not be sent any more\./)).toBeVisible();
  const box = ana.getByRole("region", { name: "Lot B1" });
  await expect(box).toContainText("must not be sent: Ana");
  await expect(box).toContainText("In bins: 28 (set aside: 28) · picked or packed: 1 · to be put back: 1");
  await nothingSerious(ana);
  // It is put back by scanning, and set aside; then it is written off.
  await flo.goto("/put-back");
  await expect(flo.getByRole("button", { name: /1 LT-1/ })).toBeVisible();
  await scan("LT-1");
  await scan("LT-01-1");
  await right("1 of LT-1 into LT-01-1.");
  await expect(box).toContainText("In bins: 29 (set aside: 29) · left the house: 3");
  await box.getByRole("button", { name: "Write off…" }).click();
  await ana.getByLabel("What has become of them?").fill("back to Ropewalk");
  await ana.keyboard.press("Enter");
  await expect(toast(ana, /^Written off: 29 units of lot B1 of LT-1\./)).toBeVisible();
  await box.getByRole("button", { name: "What was noted" }).click();
  await expect(box.getByRole("listitem").first()).toContainText("back to Ropewalk");
  await ana.goto("/items/LT-1");
  await expect(ana.getByText("none is noted yet")).toBeVisible();
});
