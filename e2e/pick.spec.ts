import { expect } from "@playwright/test";
import { onFloor, scanner, send } from "./floor";
import { importFiles, inDays, nothingSerious, signIn, test, toast } from "./help";

test("a whole list is picked by scanning alone, with what is wrong said loudly", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PA", 2);
  const { flo, scan, right, wrong } = await scanner(browser);
  await flo.goto("/pick");
  await expect(flo.getByRole("button", { name: new RegExp(list) })).toBeVisible();
  await nothingSerious(flo);
  await scan("PL-0-R9");
  await wrong("No sheet with the code PL-0-R9");
  await scan(`${list}-r1`);
  await expect(flo.getByRole("heading", { name: list })).toBeVisible();
  const row = (n: number) => flo.getByRole("region", { name: `Row ${n} of 4` });
  await expect(row(1)).toContainText("PA-01-1");
  await expect(row(1)).toContainText("10 rolls");
  await expect(row(1)).toContainText("tote A");
  await nothingSerious(flo);
  await scan("PA-02-9");
  await wrong("PA-02-9 is wrong. Go to bin PA-01-1.");
  await scan("PA-01-1");
  await right("PA-01-1, right bin. Now the item.");
  await scan("PA-2");
  await wrong("PA-2 is wrong. Put it back and take PA-1.");
  await scan("PA00000001");
  await scan("");
  await right("10 rolls of PA-1 from PA-01-1 into tote A: done.");
  // The same bin again, for the other order: another bin is nearer.
  await expect(row(2)).toContainText("11 rolls");
  await scan("PA-09-1");
  await right("PA-09-1 holds 50 of it, too.");
  await scan("PA-1");
  await scan("11");
  await right("11 rolls of PA-1 from PA-09-1 into tote B: done.");
  // Out of turn, fewer than are asked for, and why.
  await scan("PA-02-3");
  await scan("PA-2");
  await scan("1");
  await expect(flo.getByRole("region", { name: "Fewer were found" })).toContainText("2 are not there");
  await nothingSerious(flo);
  await flo.getByRole("button", { name: "The rest is missing" }).tap();
  await right("2 not found");
  await scan("PA-02-3");
  await scan("PA-2");
  await scan("");
  await expect(flo.getByText("All of it is picked.")).toBeVisible();
  // It is so for everybody, and the bin is to be counted.
  await ana.goto(`/floor/${list}`);
  await expect(ana.getByText("2 short")).toBeVisible();
  await expect(ana.getByRole("button", { name: /^Confirm all/ })).toHaveCount(0);
  await flo.goto("/counts");
  await expect(flo.getByRole("button", { name: /PA-02-3/ })).toBeVisible();
  await scan("PA-02-3");
  await right("Count all of PA-2");
  await nothingSerious(flo);
  await scan("54");
  await right("PA-02-3: 54 counted.");
  await expect(
    flo
      .getByText("No bin is to be counted.")
      .or(flo.getByRole("button", { name: /found fewer/ }))
      .first(),
  ).toBeVisible();
  await ana.goto("/items/PA-2");
  await expect(ana.getByText(/54/).first()).toBeVisible();
});

test("picking goes on without a connection, a reload loses nothing, and what is refused afterwards is loud", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PB", 2);
  const { flo, scan, right } = await scanner(browser, { viewport: { width: 360, height: 740 }, hasTouch: true });
  await flo.goto(`/pick/${list}`);
  const row = (n: number) => flo.getByRole("region", { name: `Row ${n} of 4` });
  await expect(row(1)).toBeVisible();
  await expect(flo.getByText("0 of 4 rows done")).toBeVisible();
  // Nothing is wider than the screen, and everything can be touched.
  expect(await flo.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
  for (const b of await flo.getByRole("button").all()) expect((await b.boundingBox())!.height).toBeGreaterThanOrEqual(44);
  let broken = true;
  await flo.route("**/api/pick", (r) => (broken ? r.abort() : r.continue()));
  for (const [bin, item] of [
    ["PB-01-1", "PB-1"],
    ["PB-01-1", "PB-1"],
  ]) {
    await scan(bin!);
    await scan(item!);
    await scan("");
  }
  await right("11 rolls of PB-1");
  await expect(flo.getByText("No connection. 2 scans are kept here")).toBeVisible();
  await expect(flo.getByText("2 of 4 rows done")).toBeVisible();
  await nothingSerious(flo);
  await flo.goto("/floor"); // wherever one is
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByText("2 of 4 rows done")).toBeVisible();
  await expect(row(3)).toBeVisible();
  // Meanwhile the second one is recalled in the office, where both are still to be picked.
  await ana.goto(`/floor/${list}`);
  await ana.getByRole("button", { name: "Recall" }).nth(1).click();
  await expect(toast(ana, /^Recalled/)).toBeVisible();
  broken = false;
  const refused = flo.getByRole("alert").filter({ hasText: "Refused: 11 rolls of PB-1 from PB-01-1." });
  await expect(refused).toContainText("has changed since you saw it");
  await expect(flo.getByRole("alert").filter({ hasText: "Stop: tote B." })).toContainText("11 of PB-1");
  await nothingSerious(flo);
  await refused.getByRole("button", { name: "I have read it" }).tap();
  await expect(refused).toHaveCount(0);
  await expect(ana.locator("tr[data-row]").first()).toContainText("picked");
  await expect(ana.locator("tr[data-row]").nth(1)).toContainText("11 recalled");
});

test("lists go from person to person", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PC", 1);
  const { flo } = await scanner(browser);
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByRole("region", { name: "Row 1 of 2" })).toBeVisible();
  await ana.goto(`/floor?q=${list}`);
  const row = ana.locator("tr[data-row]").first();
  await expect(row).toContainText("Flo Marsh");
  // Whoever runs the floor sees who is on a break.
  await flo.goto("/pick");
  const back = flo.getByRole("button", { name: "I am back" });
  await expect(back.or(flo.getByRole("button", { name: "Take a break" }))).toBeVisible();
  if (await back.isVisible()) await back.tap(); // from where the demo has her
  await flo.getByRole("button", { name: "Take a break" }).tap();
  await expect(flo.getByText(/^You are on a break since/)).toBeVisible();
  await nothingSerious(flo);
  await expect(row).toContainText("Flo Marsh on a break");
  await flo.getByRole("button", { name: "I am back" }).tap();
  await expect(row).not.toContainText("on a break");
  await flo.getByRole("button", { name: "Take a break" }).tap();
  await expect(row).toContainText("on a break");
  await ana.keyboard.press("h");
  const dialog = ana.getByRole("dialog", { name: `Flo Marsh picks ${list}. Hand it to…` });
  await dialog.getByRole("button", { name: /Ana Ruiz/ }).click();
  await expect(toast(ana, `Ana Ruiz picks ${list} from now on, in place of Flo Marsh.`)).toBeVisible();
  await expect(row).toContainText("Ana Ruiz");
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByText("Ana Ruiz picks this list since")).toBeVisible();
  await nothingSerious(flo);
  await flo.getByRole("button", { name: "Take it over" }).tap();
  await expect(flo.getByRole("region", { name: "Row 1 of 2" })).toBeVisible();
  await expect(row).toContainText("Flo Marsh");
});

test("an order that is held after its release is recalled while somebody picks it, and stays allocated", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PH", 1);
  const { flo, scan, right } = await scanner(browser);
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByRole("region", { name: "Row 1 of 2" })).toBeVisible();
  for (const text of ["PH-01-1", "PH-1", ""]) await scan(text);
  await right("10 rolls of PH-1");
  await ana.goto("/orders/PH900");
  await expect(ana.getByRole("heading", { name: /PH900/ })).toBeVisible();
  await expect(ana.getByText("Still on the floor")).toHaveCount(0);
  await ana.keyboard.press("h");
  await expect(ana.getByRole("dialog")).toBeVisible();
  await ana.keyboard.type("They have two bills open");
  await ana.keyboard.press("Enter");
  await expect(toast(ana, "PH900 is on coordinator hold")).toBeVisible();
  await expect(ana.getByText("Still on the floor")).toBeVisible();
  await expect(ana.getByText(/13 units of it, which may be picked and packed although/)).toBeVisible();
  await nothingSerious(ana);
  await ana.getByRole("button", { name: "Recall · 13" }).click();
  const dialog = ana.getByRole("dialog", { name: "Recall PH900" });
  await expect(dialog.getByLabel("It has to wait: they stay allocated for it")).toBeChecked();
  await expect(dialog.getByRole("status")).toContainText("To be put back: 10 units; the line can go again after that.");
  await dialog.getByRole("button", { name: "Recall 13 units" }).click();
  await expect(toast(ana, /^Recalled 13 units of PH900: allocated/)).toBeVisible();
  await expect(ana.getByText("Still on the floor")).toHaveCount(0);
  // Whoever picks it sees it at once.
  await expect(flo.getByRole("alert").filter({ hasText: "Stop:" })).toContainText("3 of PH-2");
});

test("a short pick is a question on Today, and ends in a new allocation from another bin", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,unit,price,cost,weight_kg\nPS-1,Gilded twine,roll,900,400,0.2\n",
    "stock.csv": "warehouse,sku,bin,zone,on_hand\nHL,PS-1,PS-01-1,PS,10\nHL,PS-1,PS-09-1,PS,50\n",
    "orders.csv": `order,customer,ship_rule,wanted,line,sku,warehouse,qty\nPS900,C101,any,${inDays(0)},1,PS-1,HL,10\n`,
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  const chosen = { orders: [{ number: "PS900", seen: 0 }] };
  await send(ana, "/api/allocate", chosen);
  const list = (await send(ana, "/api/release", chosen)).documents.find((d) => d.kind === "pick list")!.number;
  const { flo, scan } = await scanner(browser);
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByRole("region", { name: "Row 1 of 1" })).toContainText("PS-01-1");
  for (const text of ["PS-01-1", "PS-1", "6"]) await scan(text);
  await flo.getByRole("button", { name: "The rest is missing" }).tap();
  await expect(flo.getByText("All of it is picked.")).toBeVisible();
  await ana.goto("/");
  const row = ana.locator("tr[data-row]").filter({ hasText: /PS900.*not found/ });
  await expect(row).toContainText("4 of PS-1 not found: Flo Marsh found fewer in PS-01-1");
  await row.getByRole("button", { name: /^Allocate/ }).click();
  await expect(toast(ana, "Allocated 4 of PS-1 for PS900.")).toBeVisible();
  await expect(row).toHaveCount(0);
  // The bin in which they were missing is to be counted; the next list goes to the other one.
  await flo.goto("/counts");
  await expect(flo.getByRole("button", { name: /PS-01-1/ })).toBeVisible();
  const again = await send(ana, "/api/release", chosen);
  await flo.goto(`/pick/${again.documents.find((d) => d.kind === "pick list")!.number}`);
  await expect(flo.getByRole("region", { name: "Row 1 of 1" })).toContainText("PS-09-1");
  await expect(flo.getByRole("region", { name: "Row 1 of 1" })).toContainText("4 rolls");
});
