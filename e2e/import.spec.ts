import { expect } from "@playwright/test";
import { importFiles, nothingSerious, signIn, test, toast } from "./help";

const theirs =
  "Order No;Pos;Account;Item Code;Colour;Ordered Qty;Wanted When;Unit Price\n" +
  "F-7001;1;C106;CB-110;green;1.200;03/04/2099;1.234,50\nF-7001;2;C106;CB-110;white;8;03/04/2099;2,00\n";

test("a file under other names is mapped once, its days are asked about, and faults that are alike are one", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, { "theirs.csv": theirs });
  const dialog = ana.getByRole("dialog", { name: "How theirs.csv is read" });
  await expect(dialog).toBeVisible();
  await expect(dialog.getByLabel("What Order No is")).toHaveValue("order");
  await expect(dialog.getByLabel("What Colour is")).toHaveValue("");
  await expect(dialog.getByLabel("Numbers are written")).toHaveValue("comma");
  // What is missing is said, and has to be mended before it can be read.
  await expect(dialog.getByText("Still missing: requested date.")).toBeVisible();
  await expect(dialog.getByRole("button", { name: "Read it like this" })).toBeDisabled();
  await dialog.getByLabel("What Wanted When is").selectOption("wanted");
  await dialog.getByLabel("Days are written").selectOption("mdy");
  await nothingSerious(ana);
  await dialog.getByRole("button", { name: "Read it like this" }).click();
  await expect(ana.getByText("2 rows would change something.")).toBeVisible();
  await expect(ana.getByText("F-7001 line 1, 1200 of CB-110")).toBeVisible();
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported orders: 2 new/)).toBeVisible();
  await ana.goto("/orders/F-7001");
  await expect(ana.getByText(/4 Mar 2099/).first()).toBeVisible();

  // The next file of that shape is read as it was said; what is wrong in many rows is said once.
  const rows = Array.from({ length: 120 }, (_, i) => `F-7002;${i + 1};C106;NOT-HERE;;1;3/28/2099;`);
  await importFiles(ana, { "next.csv": theirs.split("\n")[0] + "\n" + rows.join("\n") + "\n" });
  await expect(ana.getByText("120 faults: nothing can be applied until they are mended in the files.")).toBeVisible();
  const fault = ana.getByRole("row", { name: /NOT-HERE/ });
  await expect(fault).toHaveCount(1);
  await expect(fault).toContainText("an item that exists or is in the items file");
  await expect(fault).toContainText("Choose the items file together with this one");
  await expect(fault).toContainText("120");
  await expect(fault).toContainText("2, 3, 4, 5, 6, …");
});

test("a workbook that was saved of a list is read again", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/items?cols=sku,name,price");
  const answer = await ana.request.get("/api/lists/items/file?format=xlsx&columns=sku,name,price");
  expect(answer.status()).toBe(200);
  await ana.goto("/import");
  await ana.locator("input[type=file]").setInputFiles({ name: "items.xlsx", mimeType: "application/zip", buffer: await answer.body() });
  const dialog = ana.getByRole("dialog", { name: /^How items.xlsx/ });
  await expect(dialog.getByLabel("It holds")).toHaveValue("items");
  await dialog.getByRole("button", { name: "Read it like this" }).click();
  await expect(ana.getByText("Everything in these files is here already; applying changes nothing.")).toBeVisible();
});

test("the sample files show what an import does", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/import");
  await ana.getByRole("button", { name: "Use the sample files" }).click();
  await expect(ana.getByText(/rows would change something/)).toBeVisible();
  await ana.getByRole("button", { name: "Discard" }).click();
  await expect(ana.getByText(/rows would change something/)).toHaveCount(0);

  // For the floor it says who imports.
  const flo = await signIn(browser, "floor");
  await flo.goto("/import");
  await expect(flo.getByText("Imports are for a coordinator.")).toBeVisible();
  await expect(flo.getByRole("button", { name: "Use the sample files" })).toHaveCount(0);
});
