import { expect } from "@playwright/test";
import { onFloor, scanner, send } from "./floor";
import { nothingSerious, signIn, test, toast } from "./help";

test("an order is cancelled while its sheet is on the floor: the picker sees it, and the sheet is refused with who, when and why", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "RA", 2);
  const { flo, scan, right, wrong } = await scanner(browser);
  await flo.goto("/pick");
  await expect(flo.getByRole("button", { name: new RegExp(list) })).toBeVisible();
  await scan(`${list}-R1`);
  await expect(flo.getByRole("region", { name: "Row 1 of 4" })).toBeVisible();
  // The first row is picked; then the customer rings.
  await scan("RA-01-1");
  await scan("RA-1");
  await scan("");
  await right("10 rolls of RA-1");
  await expect(flo.getByText("1 of 4 rows done")).toBeVisible();
  await ana.goto("/orders/RA900");
  await expect(ana.getByRole("heading", { level: 1, name: "RA900" })).toBeVisible();
  await ana.keyboard.press("l");
  const dialog = ana.getByRole("dialog", { name: "Recall RA900" });
  await expect(dialog.getByText(`at HL, from ${list}`)).toBeVisible();
  await expect(dialog.getByText(`on ${list}, printed; Flo`)).toBeVisible();
  await expect(dialog.getByRole("status")).toContainText("Free at once: 3 units.");
  await expect(dialog.getByRole("status")).toContainText(`The printed sheets of ${list} are void.`);
  await expect(dialog.getByRole("status")).toContainText("To be put back: 10 units, free after that.");
  await nothingSerious(ana);
  await dialog.getByLabel(/^Why/).press("Enter");
  await expect(toast(ana, /^Recalled and dropped 13 units of RA900/)).toBeVisible();
  await expect(dialog).toHaveCount(0);
  await expect(ana.getByText("· finished")).toBeVisible();
  // The other browser has it without being asked: what is left is the other order's.
  await expect(flo.getByText("1 of 3 rows done").or(flo.getByText("2 of 4 rows done")).first()).toBeVisible();
  await flo.goto("/pick");
  await expect(flo.getByRole("link", { name: /Put back · \d/ })).toBeVisible();
  await scan(`${list}-R1`);
  await wrong(/is void: something on it was recalled \(Ana .*: “cancelled by customer”\)/);
  // At the bench, too, with where the goods are to go.
  await ana.goto("/packing");
  await expect(ana.getByLabel("Scan a sheet or an order")).toBeVisible();
  await ana.keyboard.press("s");
  await ana.keyboard.type(`${list}-r1`);
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("alert").filter({ hasText: "Why: cancelled by customer." })).toContainText(
    "Bring the 10 of RA-1 to PUT-BACK at HL.",
  );
  await nothingSerious(ana);
  // What was picked is put back by scanning: some into one bin, the rest into another.
  await flo.getByRole("link", { name: /Put back/ }).click();
  await expect(flo.getByRole("heading", { name: "Put back" })).toBeVisible();
  await expect(flo.getByRole("button", { name: /10 RA-1/ })).toBeVisible();
  await nothingSerious(flo);
  await scan("RA-9");
  await wrong("RA-9 is not to be put back.");
  await scan("RA00000001");
  await right("10 of RA-1. Now bin RA-01-1.");
  await scan("4");
  await scan("RA-09-1");
  await right("4 into RA-09-1; 6 are left.");
  await scan("PUT-BACK");
  await wrong("PUT-BACK is where it lies now.");
  await scan("RA-01-1");
  await right("6 of RA-1 into RA-01-1.");
  await expect(flo.getByRole("button", { name: /RA-1/ })).toHaveCount(0);
  await ana.goto("/items/RA-1");
  // 30 and 50 lay there, 11 are on the list of the other order.
  await expect(ana.getByRole("row", { name: /Harrow Lane/ }).first()).toContainText("69");
});

test("an order is cancelled when it is packed: its package is refused at the dock until it has been emptied", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "RB", 1);
  const { flo, scan, right } = await scanner(browser, { viewport: { width: 1280, height: 800 }, hasTouch: false });
  await flo.goto(`/floor/${list}`);
  await flo.getByRole("button", { name: /^Confirm all/ }).click();
  await expect(toast(flo, /^Picked 13/)).toBeVisible();
  await flo.goto("/packing?q=RB900");
  await flo.getByRole("button", { name: /^Pack 1 package/ }).click();
  await expect(toast(flo, /^Packed 13 units of RB900/)).toBeVisible();
  // Only some of it is cancelled: those that are typed.
  await ana.goto("/orders/RB900");
  await ana.getByRole("button", { name: /^Recall…/ }).click();
  const dialog = ana.getByRole("dialog", { name: "Recall RB900" });
  await dialog.getByLabel("Units of line 1 to recall").fill("4");
  await dialog.getByLabel("Units of line 2 to recall").fill("0");
  await expect(dialog.getByRole("status")).toContainText("To be put back: 4 units, free after that.");
  await dialog.getByRole("button", { name: "Recall and drop 4 units" }).click();
  await expect(toast(ana, /^Recalled and dropped 4 units of RB900/)).toBeVisible();
  const shipment = await ana.getByRole("link", { name: /^SH-/ }).first().innerText();
  await flo.goto("/dock");
  await expect(flo.getByLabel("Scan a package or a sheet")).toBeVisible();
  await flo.keyboard.press("s");
  await scan(shipment);
  const stop = flo.getByRole("alert").filter({ hasText: "recalled 4 of RB-1 for RB900" });
  await expect(stop).toContainText("Why: cancelled by customer. Bring the 4 of RB-1 to PUT-BACK at HL.");
  await nothingSerious(flo);
  await flo.goto(`/dock?q=${shipment}`);
  await expect(flo.getByText("units that were recalled may still lie in it")).toBeVisible();
  const refused = await send(flo, "/api/dispatch", [{ number: shipment, seen: 0 }]);
  expect(refused.detail).toContain("may still hold 4 of RB-1");
  await flo.goto("/put-back");
  await expect(flo.getByRole("button", { name: /4 RB-1/ })).toBeVisible();
  await scan("RB-1");
  await scan("RB-01-1");
  await right("4 of RB-1 into RB-01-1.");
  await flo.goto("/dock");
  await expect(flo.getByLabel("Scan a package or a sheet")).toBeVisible();
  await flo.keyboard.press("s");
  await scan(shipment);
  await expect(flo.locator("tr[data-row]")).toHaveCount(1);
  await expect(flo.locator("tr[data-row]")).toContainText(shipment);
  // Its label says what is no longer in it: the package gets another.
  await flo.goto(`/shipments/${shipment}`);
  await expect(flo.getByText("its label is void: print labels again")).toBeVisible();
  await nothingSerious(flo);
  await flo.keyboard.press("l");
  await expect(toast(flo, `Printing 1 label of ${shipment}.`)).toBeVisible();
  await expect(flo.getByText(/^SSCC 0\d{17}$/)).toBeVisible();
  await expect.poll(async () => (await send(flo, "/api/dispatch", [{ number: shipment, seen: 0 }])).detail ?? "").toBe("");
  // Once it has left, a recall says so.
  await ana.goto("/orders/RB900");
  await expect(
    ana
      .getByText("shipped 6")
      .or(ana.getByText(/shipped 6/))
      .first(),
  ).toBeVisible();
  await expect(ana.getByRole("button", { name: /^Recall…/ })).toHaveCount(0);
});

test("what is picked is recalled from where the order is changed, and goes to its new address after that", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "RC", 1);
  const { flo } = await scanner(browser);
  await flo.goto(`/floor/${list}`);
  await flo.getByRole("button", { name: /^Confirm all/ }).click();
  await expect(toast(flo, /^Picked 13/)).toBeVisible();
  await ana.goto("/entry?order=RC900");
  await expect(ana.getByLabel("Service")).toBeVisible();
  await ana.getByLabel("Ship-to").selectOption("~own");
  await ana.getByLabel("Street").fill("1 Quay");
  await ana.getByLabel("City").fill("Saltby");
  await ana.getByLabel("Postcode").fill("SB1 1AA");
  const save = ana.getByRole("button", { name: /^Change the order/ });
  await expect(ana.getByRole("status").filter({ hasText: "cannot be sent elsewhere: of line 1 10 are picked. Recall" })).toBeVisible();
  await expect(save).toBeDisabled();
  await ana.getByRole("button", { name: "Recall…" }).click();
  const dialog = ana.getByRole("dialog", { name: "Recall RC900" });
  await dialog.getByLabel(/^Why/).fill("the address changes");
  await dialog.getByRole("button", { name: "Recall 13 units" }).click();
  await expect(toast(ana, /^Recalled 13 units of RC900: allocated/)).toBeVisible();
  await expect(save).toBeEnabled();
  await save.click();
  await expect(ana.getByRole("heading", { level: 1, name: "RC900" })).toBeVisible();
  await expect(ana.getByText(/^Web shop, 1 Quay, Saltby/)).toBeVisible();
});

test("what is packed is relabelled when its address changes: the old label is refused, and it leaves with the new one", async ({
  browser,
}) => {
  const ana = await signIn(browser, "coordinator");
  const list = await onFloor(ana, "RD", 1);
  const { flo } = await scanner(browser);
  await flo.goto(`/floor/${list}`);
  await flo.getByRole("button", { name: /^Confirm all/ }).click();
  await expect(toast(flo, /^Picked 13/)).toBeVisible();
  await flo.goto("/packing?q=RD900");
  await flo.getByRole("button", { name: /^Pack 1 package/ }).click();
  await expect(toast(flo, /^Packed 13 units/)).toBeVisible();
  const shipment = /SH-\d+/.exec(await toast(flo, /^Packed 13 units/).innerText())![0];
  await flo.goto(`/shipments/${shipment}`);
  const sscc = flo.getByText(/^SSCC \d{18}$/).first();
  await expect(sscc).toBeVisible();
  const old = (await sscc.innerText()).replace("SSCC ", "");
  await ana.goto("/entry?order=RD900");
  await expect(ana.getByLabel("Service")).toBeVisible();
  await ana.getByLabel("Ship-to").selectOption("~own");
  await ana.getByLabel("Street").fill("2 Quay");
  await ana.getByLabel("City").fill("Saltby");
  await ana.getByLabel("Postcode").fill("SB1 1AB");
  await expect(ana.getByRole("status").filter({ hasText: "cannot be sent elsewhere" })).toBeVisible();
  await ana.getByRole("button", { name: "Relabel what is packed" }).click();
  await expect(ana.getByRole("status").filter({ hasText: `1 label of ${shipment} will be void` })).toBeVisible();
  await nothingSerious(ana);
  await ana.getByRole("button", { name: /^Change the order/ }).click();
  await expect(ana.getByText(/^Web shop, 2 Quay, Saltby/)).toBeVisible();
  await flo.goto("/dock");
  await expect(flo.locator("tr[data-row]").first()).toBeVisible();
  await flo.getByLabel("Scan a package or a sheet").fill(old);
  await flo.keyboard.press("Enter");
  await expect(flo.getByRole("alert").filter({ hasText: `${old} is void: Ana Ruiz changed where it goes, or how` })).toBeVisible();
  await send(flo, "/api/dispatch", [{ number: shipment, seen: 13 }]).then((o) => expect(o.detail).toContain("Print its labels again"));
  await send(flo, "/api/print-labels", { shipment });
  await send(flo, "/api/dispatch", [{ number: shipment, seen: 13 }]).then((o) => expect(o.detail).toBeUndefined());
});

test("a customer is put on hold with all its orders, one is let through, and a day is kept before which an order does not leave", async ({
  browser,
}) => {
  const max = await signIn(browser, "manager");
  await max.goto("/customers/C127");
  await expect(max.getByRole("button", { name: /^Hold all its orders/ })).toBeVisible();
  await max.keyboard.press("h");
  const dialog = max.getByRole("dialog", { name: /^Hold all orders of/ });
  await dialog.getByLabel(/^Why/).fill("The cheque came back");
  await nothingSerious(max);
  await max.keyboard.press("Enter");
  await expect(toast(max, /is on credit hold\. \d+ orders? will not be released/)).toBeVisible();
  await expect(max.getByText("The cheque came back")).toBeVisible();
  await nothingSerious(max);
  // Whoever enters an order of it is told, and the order is on hold.
  const tom = await signIn(browser, "sales");
  await tom.goto("/entry?customer=C127&sku=GL-2040-1&qty=2");
  await expect(tom.getByText(/is on credit hold: The cheque came back\./)).toBeVisible();
  await tom.getByLabel("Leaves not before").fill("2031-03-10");
  await tom.getByLabel("Leaves not before").press("Enter");
  await expect(tom.getByRole("button", { name: /^Enter the order/ })).toBeEnabled();
  await nothingSerious(tom);
  await tom.getByRole("button", { name: /^Enter the order/ }).click();
  await expect(tom.getByText(/leaves not before 10 Mar 2031/)).toBeVisible();
  await expect(tom.getByText("customer hold").first()).toBeVisible();
  await expect(tom.getByText("A customer hold is lifted by a manager.")).toBeVisible();
  await max.goto(new URL(tom.url()).pathname);
  await max.getByRole("button", { name: "Lift the hold" }).click();
  await expect(toast(max, /^The customer hold on SO-/)).toBeVisible();
  await max.goto("/customers/C127");
  await max.getByRole("button", { name: "Lift the hold" }).click();
  await expect(toast(max, /^The credit hold on .* is lifted, and with it that on/)).toBeVisible();
  await expect(max.getByRole("button", { name: /^Hold all its orders/ })).toBeVisible();
});
