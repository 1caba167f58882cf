import { expect } from "@playwright/test";
import { onFloor, scanner, send } from "./floor";
import { nothingSerious, signIn, test, toast } from "./help";

test("an order is picked and packed by scans alone on a tablet, into the cartons that are proposed", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PK", 1);
  const { flo, scan, right, wrong } = await scanner(browser);
  await flo.goto("/pick");
  await expect(flo.getByRole("button", { name: new RegExp(list) })).toBeVisible();
  await scan(`${list}-r1`);
  await expect(flo.getByRole("region", { name: "Row 1 of 2" })).toBeVisible();
  for (const text of ["PK-01-1", "PK-1", "", "PK-02-3", "PK-2", ""]) await scan(text);
  await expect(flo.getByText("All of it is picked.")).toBeVisible();
  // The sheet that was in hand leads to the bench.
  await flo.getByRole("link", { name: "Go and pack" }).tap();
  await expect(flo.getByRole("button", { name: /PK900/ })).toBeVisible();
  await nothingSerious(flo);
  await scan("PK-NOTHING");
  await wrong(/PK-NOTHING/);
  await scan("PK900");
  await expect(flo.getByRole("region", { name: "Package 1" })).toContainText("Small carton");
  await expect(flo.getByRole("region", { name: "Package 1" })).toContainText("of 10");
  await nothingSerious(flo);
  for (const b of await flo.getByRole("button").all()) expect((await b.boundingBox())!.height).toBeGreaterThanOrEqual(44);
  await scan("PA-1");
  await wrong("PA-1 is not of PK900. Lay it aside.");
  await scan("PK00000001"); // its barcode
  await right("1 roll of PK-1 in package 1.");
  await scan("11");
  await wrong("10 of PK-1 can be in package 1, not 11.");
  await scan("");
  await right("10 rolls of PK-1 in package 1.");
  await scan("");
  await wrong("In no package: 3. Scan an item.");
  // A carton more, for what should lie by itself; a reload loses nothing.
  await scan("BOX-M");
  await right("Package 2: Medium carton.");
  await scan("PK-2");
  await flo.reload();
  await expect(flo.getByRole("region", { name: "Package 2" })).toContainText("PK-2");
  await scan("PK-2");
  await scan("3");
  await right("All of it is in packages: press Enter to pack.");
  await flo.getByRole("button", { name: "Weigh package 2" }).tap();
  await right("Package 2 weighs 3.4 kg.");
  await nothingSerious(flo);
  await scan("");
  await expect(flo.getByRole("status").filter({ hasText: "Packed 13 units of PK900 into 2 packages" })).toBeVisible();
  await nothingSerious(flo);
  await flo.getByRole("link", { name: /^SH-/ }).tap();
  await expect(flo.getByText("Medium carton").first()).toBeVisible();
  await expect(flo.getByText("Small carton").first()).toBeVisible();
});

test("at the bench a proposal is changed, weighed, and packed into a shipment that goes the same way", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "PL", 2);
  const found = await ana.evaluate(async (list) => {
    const answer = await fetch(`/api/pick-lists/${list}`);
    return ((await answer.json()) as { tasks: { id: number; due: number }[] }).tasks.map((x) => ({ task: x.id, qty: x.due, seen: x.due }));
  }, list);
  await send(ana, "/api/pick", found);
  await ana.goto("/packing?q=PL900");
  const bench = ana.getByRole("region", { name: "Packing PL900" });
  await expect(bench.getByText("Proposed: 1 × Small carton")).toBeVisible();
  await bench.getByLabel("Kind of package 1").selectOption("Large carton");
  await bench.getByLabel("PL-2 in package 1").fill("1");
  await bench.getByRole("button", { name: "Another package" }).click();
  await expect(bench.getByLabel("PL-2 in package 2")).toHaveValue("2");
  await bench.getByRole("button", { name: "Weigh package 2" }).click();
  await expect(bench.getByLabel("Weight of package 2 in kg")).toHaveValue("2.92");
  await bench.getByLabel("Weight of package 2 in kg").fill("7");
  await expect(bench.getByText("By its items it weighs 2.9 kg: count again what is in it.")).toBeVisible();
  await bench.getByLabel("Weight of package 2 in kg").fill("70");
  await expect(bench.getByText(/It may weigh 28 kg/)).toBeVisible();
  await nothingSerious(ana);
  await bench.getByRole("button", { name: /^Pack 2 packages/ }).click();
  await expect(toast(ana, /Package 2 weighs 70\.0 kg; BOX-L Large carton may weigh 28\.0 kg/)).toBeVisible();
  await bench.getByRole("button", { name: "As proposed" }).click();
  await expect(bench.getByLabel("Kind of package 1")).toHaveValue("BOX-S");
  await ana.keyboard.press("p");
  await expect(toast(ana, /^Packed 13 units of PL900 into 1 package/)).toBeVisible();
  // The second order of the customer goes the same way: it can go into the same shipment.
  await ana.goto("/packing?q=PL901");
  const other = ana.getByRole("region", { name: "Packing PL901" });
  const into = other.getByLabel("Shipment");
  const option = into.locator("option", { hasText: "PL900" });
  await expect(option).toHaveCount(1);
  await into.selectOption({ label: (await option.innerText()).trim() });
  await other.getByRole("button", { name: /^Pack 1 package/ }).click();
  await expect(toast(ana, /^Packed 14 units of PL901 into 1 package of shipment SH-/)).toBeVisible();
  await ana.goto("/dock?q=PL901");
  await expect(ana.locator("tr[data-row]").first()).toContainText("PL900 +1");
});

test("a manager says what goods are packed into, and the bench offers it", async ({ browser }) => {
  const max = await signIn(browser, "manager");
  await max.goto("/settings");
  await expect(max.getByRole("heading", { name: "Cartons and pallets" })).toBeVisible();
  for (const [field, value] of [
    ["Code", "tube"],
    ["Name", "Poster tube"],
    ["Length", "120"],
    ["Width", "12"],
    ["Height", "12"],
    ["Empty", "0.3"],
  ] as const)
    await max.getByLabel(`${field} of a new kind`).fill(value);
  await expect(max.getByRole("button", { name: "Add" })).toBeDisabled();
  await max.getByLabel("At most of a new kind").fill("5");
  await nothingSerious(max);
  await max.getByRole("button", { name: "Add" }).click();
  await expect(toast(max, "Poster tube is packed as you said from now on.")).toBeVisible();
  await max.goto("/packing");
  const kind = max.getByLabel("Kind of package 1");
  await expect(kind).toBeVisible();
  await kind.selectOption("Poster tube");
  await max.goto("/settings");
  await max.getByRole("button", { name: "Take away Poster tube" }).click();
  await expect(toast(max, "Nothing is packed into TUBE any more.")).toBeVisible();
  await expect(max.getByLabel("Name of Poster tube")).toHaveCount(0);
});
