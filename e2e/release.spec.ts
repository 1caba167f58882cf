import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect, type Page } from "@playwright/test";
import { importFiles, inDays, nothingSerious, signIn, test, toast } from "./help";

/** What stands on a document: its text by pages, and the codes that a scanner reads from each. */
async function onPaper(page: Page, url: string) {
  const answer = await page.request.get(url);
  expect(answer.headers()["content-type"]).toBe("application/pdf");
  const folder = mkdtempSync(join(tmpdir(), "paper-"));
  const file = join(folder, "x.pdf");
  writeFileSync(file, await answer.body());
  const text = execFileSync("pdftotext", ["-layout", file, "-"]).toString().split("\f").slice(0, -1);
  execFileSync("pdftoppm", ["-r", "100", "-png", file, join(folder, "p")]);
  const codes = text.map((_, i) => {
    const digits = String(text.length).length;
    const picture = join(folder, `p-${String(i + 1).padStart(digits, "0")}.png`);
    return execFileSync("zbarimg", ["-q", "--raw", picture], { stdio: ["ignore", "pipe", "ignore"] })
      .toString()
      .trim();
  });
  return { text, codes };
}

const titled = (page: Page) => page.locator("#page-title + div");
const tray = (page: Page) => page.getByRole("region", { name: "Tray" });

test("from a saved view, in one step, on lists of their own and on paper, until the view is empty and says why", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv":
      "sku,name,price,cost,weight_kg,length_cm,width_cm,height_cm\n" + "ZR-1,Plate,2.00,1.00,2,40,30,10\nZR-2,Bowl,2.00,1.00,1,20,20,10\n",
    "stock.csv": "warehouse,sku,bin,zone,on_hand\nHL,ZR-1,Z-1-3,Z,90\nHL,ZR-2,Z-2-7,Z,90\n",
    "customers.csv": "customer,name,tier,ship_to,street,city,postcode\nZRC,Zenith Pottery,1,MAIN,1 Weir Road,Millrace,MI1 1AA\n",
    "orders.csv":
      "order,customer,ship_to,wanted,line,sku,warehouse,qty,service\n" +
      [1, 2, 3]
        .flatMap((n) => [`ZR-90${n},ZRC,MAIN,${inDays(-n)},1,ZR-1,HL,${n * 2}`, `ZR-90${n},ZRC,MAIN,${inDays(-n)},2,ZR-2,HL,3`])
        .concat(`ZR-904,ZRC,MAIN,${inDays(40)},1,ZR-1,HL,2`)
        .map((line) => `${line},parcel\n`)
        .join(""),
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  await ana.evaluate(async () => {
    const headers = { "Content-Type": "application/json", "Idempotency-Key": crypto.randomUUID() };
    const orders = ["ZR-901", "ZR-902", "ZR-903"].map((number) => ({ number, seen: 0 }));
    await fetch("/api/allocate", { method: "POST", headers, body: JSON.stringify({ ask: { orders } }) });
  });

  // The view follows the day: what it was kept with says so.
  await ana.goto("/release?q=ZR-90");
  await expect(titled(ana)).toHaveText("6 lines");
  await ana.getByRole("button", { name: "View" }).click();
  await ana
    .getByRole("menuitem", { name: /Tier 1, today/ })
    .or(ana.getByRole("button", { name: /Tier 1, today/ }))
    .first()
    .click();
  await expect(ana.getByRole("button", { name: /Take away: Ship by to today/ })).toBeVisible();
  await ana.goto(`/release?q=ZR-90&only=${encodeURIComponent('["tier=1","ship_by<=today"]')}`);
  await expect(titled(ana)).toHaveText("6 lines");
  await expect(ana.locator("tr[data-row]").first()).toContainText("allocated; 1 other short");

  // In one step: as many lines as one says, with what is left out.
  await ana.keyboard.press("q");
  const dialog = ana.getByRole("dialog", { name: "Choose lines in one step" });
  await dialog.getByRole("radio").nth(2).check();
  await dialog.getByLabel("Lines", { exact: true }).fill("4");
  await expect(dialog.getByRole("status")).toContainText("That chooses 4 lines of");
  await expect(dialog.getByRole("status")).toContainText("Left out: 2 lines");
  await dialog.getByRole("radio").nth(0).check();
  await expect(dialog.getByRole("status")).toContainText("That chooses 6 lines of 3 orders: 21 units");
  await nothingSerious(ana);
  await ana.keyboard.press("Enter");
  await expect(tray(ana)).toContainText("6 lines of 3 orders");
  await expect(tray(ana)).toContainText("33 kg");
  await expect(tray(ana)).toContainText("0.18 m³");

  // A list for each order, with packing lists.
  await ana.keyboard.press("l");
  const lists = ana.getByRole("dialog", { name: "Pick lists" });
  await lists.getByRole("radio", { name: /A list for each order/ }).check();
  await lists.getByRole("checkbox", { name: "Print packing lists with them" }).check();
  await expect(lists.getByRole("table", { name: "Pick lists to be" }).locator("tbody tr")).toHaveCount(3);
  await nothingSerious(ana);
  await ana.keyboard.press("Escape");
  await expect(tray(ana)).toContainText("3 pick lists");
  await ana.keyboard.press("r");
  const said = toast(ana, /^Released 21 units of 3 orders on PL-/);
  await expect(said).toBeVisible();
  const first = /PL-\d+/.exec(await said.innerText())![0];

  // The view is empty, and says what stands in the way of the rest.
  await expect(ana.getByText("No line fits this.")).toBeVisible();
  await expect(ana.getByRole("region", { name: "Not offered" })).toContainText("1 nothing allocated");

  // What was printed is read back by programs that know nothing of us.
  await ana.goto(`/floor/${first}`);
  const sheet = ana.getByRole("link", { name: `${first}-R1` });
  await expect(sheet).toBeVisible();
  await expect(ana.getByText("pages, printed")).toBeVisible();
  const url = (await sheet.getAttribute("href"))!;
  const paper = await onPaper(ana, url);
  expect(paper.codes).toHaveLength(6);
  expect(paper.codes[0]).toBe(`${first}-R1`);
  expect(paper.codes.slice(3).sort()).toEqual(["ZR-901-P1", "ZR-902-P1", "ZR-903-P1"]);
  expect(paper.text[0]).toMatch(/Z-1-3\s+\d each\s+ZR-1\s+Plate/);
  expect(paper.text.join()).toContain("Zenith Pottery");

  // Printed again, the older sheet is void; who comes with it is told, and by whom.
  await ana.keyboard.press("p");
  await expect(toast(ana, "Printing 1 sheet.")).toBeVisible();
  await expect(ana.getByRole("link", { name: `${first}-R2` })).toBeVisible();
  const flo = await signIn(browser, "floor");
  await flo.goto(`/floor/${first}?paper=${first}-R1`);
  const isVoid = (text: string) => flo.getByRole("alert").filter({ hasText: text });
  await expect(isVoid(`The sheet ${first}-R1 is void: printed again as ${first}-R2 (Ana Ruiz`)).toContainText(`Take ${first}-R2.`);
  await nothingSerious(flo);
  // A row that is recalled makes the sheet void under the eyes of the floor.
  await flo.goto(`/floor/${first}`);
  await expect(flo.getByRole("link", { name: `${first}-R2` })).toBeVisible();
  await ana.getByRole("button", { name: "Recall" }).first().click();
  await expect(toast(ana, /^Recalled/)).toBeVisible();
  await expect(isVoid(`Its sheet ${first}-R2 is void: something on it was recalled (Ana Ruiz`)).toBeVisible();
  // All of it is found by its code.
  await flo.goto("/papers?state=all&q=" + first);
  await expect(flo.locator("tr[data-row]")).toHaveCount(2);
  await nothingSerious(flo);
});

test("what is not offered has its remedy beside it", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/release");
  const kept = ana.getByRole("region", { name: "Not offered" });
  // No bin: asked for once, and remembered.
  await kept.getByRole("button", { name: "1 no bin set" }).click();
  await expect(ana.getByRole("heading", { name: "Not offered" })).toBeVisible();
  await expect(ana.locator("tr[data-row]")).toHaveCount(1);
  await ana.keyboard.press("b");
  const asks = ana.getByRole("dialog", { name: /In which bin does KF-450 lie at HL/ });
  await ana.keyboard.type("k-4-9");
  await nothingSerious(ana);
  await ana.keyboard.press("Enter");
  await expect(toast(ana, /KF-450 lies in bin K-4-9 at HL/)).toBeVisible();
  await expect(asks).toHaveCount(0);
  await expect(ana.getByText("Nothing can be released with these settings.")).toBeVisible();
  await expect(kept.getByRole("button", { name: /no bin set/ })).toHaveCount(0);
  // A later day says how many lines it brings in, and brings them.
  await kept.getByRole("button", { name: "Back to what could go" }).click();
  await expect(ana.getByRole("heading", { name: "Release" })).toBeVisible();
  const offer = (await (await ana.request.get("/api/releasable")).json()) as {
    offered: number;
    later: { lines: number }[];
  };
  await expect(titled(ana)).toHaveText(`${offer.offered} lines`);
  const more = offer.later[0]!.lines;
  await kept.getByRole("button", { name: new RegExp(`\\+${more}$`) }).click();
  await expect(titled(ana)).toHaveText(`${offer.offered + more} lines`);
  // A hold is lifted where it stands in the way; whoever may not lift it sees the order.
  await kept.getByRole("button", { name: /on hold/ }).click();
  await expect(ana.locator("tr[data-row]").first()).toBeVisible();
  await expect(ana.getByRole("button", { name: /Lift the credit hold/ }).first()).toBeVisible();
  const tom = await signIn(browser, "sales");
  await tom.goto("/release?state=on_hold");
  await expect(tom.getByRole("link", { name: "Open its order" }).first()).toBeVisible();
});
