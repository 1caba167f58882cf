import { expect, type Page } from "@playwright/test";
import { newPage, test, toast, watch } from "./help";

/** The number of a document that a toast names. */
const named = async (page: Page, said: RegExp, number: RegExp) => number.exec((await toast(page, said).innerText()) ?? "")?.[0] ?? "";

/** Presses the arrow until the row in focus is the one with the text. */
async function goToRow(page: Page, text: string) {
  const row = page.locator("tr[data-row]", { hasText: text });
  await expect(row.first()).toBeVisible();
  for (let i = 0; i < 200 && (await row.first().getAttribute("data-focus")) !== "true"; i++) await page.keyboard.press("j");
  await expect(row.first()).toHaveAttribute("data-focus", "true");
}

// The whole job with nothing but the keyboard: after the first page is opened, no mouse, no link, no button is pressed.
test("an order goes from the telephone to the door by the keyboard alone", async ({ browser }) => {
  test.setTimeout(180_000);
  const page = await newPage(browser);
  watch(page);
  await page.goto("/");
  const key = (keys: string) => page.keyboard.press(keys);
  const type = (text: string) => page.keyboard.type(text);
  const at = (heading: RegExp) => expect(page.getByRole("heading", { level: 1, name: heading })).toBeVisible();

  // Sign in: Tab to the coordinator, Enter.
  const ana = page.getByRole("button", { name: /^coordinator/i });
  await expect(ana).toBeVisible();
  for (let i = 0; i < 20 && !(await ana.evaluate((e) => e === document.activeElement)); i++) await key("Tab");
  await key("Enter");
  await at(/^\w{3} \d+ \w{3}$/);

  // The telephone rings: customer, item, quantity.
  await key("n");
  await at(/^New order or quote$/);
  await type("C106");
  await expect(page.locator("[role=option]").first()).toBeVisible();
  await key("Enter");
  await type("TL-029");
  await expect(page.locator("[role=option]").first()).toBeVisible();
  await key("Enter");
  await type("2");
  await key("Enter");
  await expect(page.getByRole("region", { name: "Tray" })).toContainText("£");
  await expect(page.getByRole("button", { name: /^Enter the order/ })).toBeEnabled();
  await key("Control+Enter");
  const order = await named(page, /^Entered /, /SO-\d+/);
  await at(new RegExp(order));

  // Allocate and release it with a key each.
  await expect(page.getByRole("img", { name: /^Line 1: (open 2|promised 2|.*open.*)/ }).first()).toBeVisible();
  await key("a");
  await expect(toast(page, /^Allocated 2/)).toBeVisible();
  await key("r");
  const list = await named(page, /^Released 2/, /PL-\d+/);

  // The floor: the list, all its rows, then the bench and the dock.
  await key("g");
  await key("f");
  await at(/^Released: pick lists$/);
  await goToRow(page, list);
  await key("Enter");
  await at(new RegExp(list));
  await key("Shift+C");
  await expect(toast(page, /^Picked 2/)).toBeVisible();
  await key("g");
  await key("p");
  await at(/^Picked: packing$/);
  await goToRow(page, order);
  await expect(page.getByRole("button", { name: /^Pack 1 package/ })).toBeEnabled();
  await key("p");
  const shipment = await named(page, /^Packed 2/, /SH-\d+/);
  await key("g");
  await key("d");
  await at(/^The dock$/);
  await goToRow(page, shipment);
  await key("Space");
  await key("d");
  await expect(toast(page, new RegExp(`${shipment}|asked`))).toBeVisible();

  // It is found again by its number, and says where it is.
  await key("Control+k");
  await type(order);
  await expect(page.getByRole("option", { name: new RegExp(order) }).first()).toBeVisible();
  await key("Enter");
  await at(new RegExp(order));
  await expect(page.getByRole("img", { name: /shipped 2|delivered 2/ }).first()).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel("Trail").getByRole("link", { name: shipment }).first()).toBeVisible();
});
