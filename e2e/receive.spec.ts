import { expect } from "@playwright/test";
import { scanner, send } from "./floor";
import { importFiles, nothingSerious, signIn, test, toast } from "./help";

test("what has come is taken in by scanning, and goes on at once to who waits for it", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,unit,price,cost,weight_kg,barcode\nRV-1,Twine,roll,2,1,0.2,RV00000001\nRV-2,Rope,each,2,1,1,\n",
    "stock.csv": "warehouse,sku,bin,zone,on_hand\nHL,RV-1,RV-01-1,RV,1\nHL,RV-2,RV-02-1,RV,4\n",
    "inbound.csv":
      "ref,sku,warehouse,due,qty,kind,supplier\n" +
      "PO-RV,RV-1,HL,2026-01-05,40,purchase,Ropewalk\nPO-RV,RV-2,HL,2026-01-05,10,purchase,Ropewalk\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nRV900,WEB,2099-03-01,1,RV-1,HL,12\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  const { flo, scan, right, wrong } = await scanner(browser);
  await flo.goto("/receive");
  await expect(flo.getByRole("button", { name: /PO-RV/ }).first()).toBeVisible();
  await nothingSerious(flo);
  await scan("NOTHING-SUCH");
  await wrong("NOTHING-SUCH is not expected.");
  await scan("PO-RV");
  await right("PO-RV brings 2 items. Scan the first.");
  await scan("RV00000001");
  await right("PO-RV: RV-1, right item. How many came? Enter for all 40.");
  await expect(flo.getByText("Wanted: 12")).toBeVisible();
  await nothingSerious(flo);
  await scan("30");
  await scan("");
  await right("30 rolls of RV-1 into RV-01-1.");
  // It is seen at once who waits for it; the floor does not decide who gets it.
  const waiting = flo.getByRole("region", { name: "Waiting for RV-1" });
  await expect(waiting).toContainText("RV900");
  await expect(waiting).toContainText("A coordinator allocates it: it stands on Today.");
  // More than was expected is taken in with a reason, fewer with another.
  await scan("RV-2");
  await scan("12");
  await wrong("10 were expected, not 12. Say why.");
  await nothingSerious(flo);
  await flo.getByRole("button", { name: "The supplier sent more" }).tap();
  await right("Now the bin: Enter for RV-02-1.");
  await scan("RV-02-2");
  await right("12 each of RV-2 into RV-02-2.");
  await scan("RV-1");
  await scan("6");
  await flo.getByRole("button", { name: "The supplier sent fewer" }).tap();
  await right("Nothing more is expected then. Now the bin.");
  await scan("");
  await right("6 rolls of RV-1 into RV-01-1.");
  await expect(flo.getByRole("button", { name: /PO-RV/ })).toHaveCount(0);
  await ana.goto("/inbound?state=all&q=PO-RV");
  const rows = ana.locator("tr[data-row]");
  await expect(rows.filter({ hasText: "RV-1" })).toContainText("36");
  await rows.filter({ hasText: "RV-2" }).click();
  await expect(ana.getByText(/^10 were expected until Flo Marsh, .*The supplier sent more\./)).toBeVisible();
  // A coordinator who takes it in lets it go from there.
  await send(ana, "/api/give-back", { orders: [{ number: "RV900", seen: 0 }] });
  await importFiles(ana, {
    "inbound.csv": "ref,sku,warehouse,due,qty,kind,supplier\nPO-RW,RV-1,HL,2026-01-06,5,purchase,Ropewalk\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.goto("/receive");
  await expect(ana.getByRole("button", { name: /PO-RW/ })).toBeVisible();
  for (const text of ["PO-RW", "RV-1", "", ""]) {
    await ana.keyboard.type(text);
    await ana.keyboard.press("Enter");
  }
  const goes = ana.getByRole("region", { name: "Waiting for RV-1" });
  await goes.getByRole("button", { name: "Allocate 12" }).click();
  await expect(toast(ana, /^Allocated 12/)).toBeVisible();
  await goes.getByRole("button", { name: "Release 12" }).click();
  await expect(toast(ana, /^Released 12 units of 1 order on PL-/)).toBeVisible();
});
