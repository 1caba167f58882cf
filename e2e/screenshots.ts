import { expect } from "@playwright/test";
import { importFiles, signIn, test } from "./help";

const shot = (name: string) => `../docs/screenshots/${name}.png`;

test("pictures of each main view", async ({ browser, page }) => {
  test.setTimeout(180_000);
  await page.goto("/");
  await expect(page.getByText("This is the demo")).toBeVisible();
  const ana = await signIn(browser, "coordinator");
  const go = async (path: string) => {
    await ana.goto(path);
    await expect(ana.locator("[aria-busy=true]")).toHaveCount(0);
    await ana.waitForTimeout(700);
  };
  for (const [name, path] of [
    ["today", "/"],
    ["orders", "/orders"],
    ["open", "/open"],
    ["packing", "/packing"],
  ] as const) {
    await go(path);
    await ana.screenshot({ path: shot(name), animations: "disabled" });
  }
  await go("/shortages?sku=GL-2040-1&warehouse=HL");
  await expect(ana.getByRole("heading", { name: /^GL-2040-1/ })).toBeVisible();
  await expect(ana.getByRole("row", { name: /Aldersyke College/ })).toBeVisible();
  for (let i = 0; i < 3; i++) await ana.keyboard.press("ArrowDown");
  await ana.waitForTimeout(400);
  await ana.keyboard.press("Shift+ArrowLeft");
  await ana.waitForTimeout(400);
  for (let i = 0; i < 3; i++) await ana.keyboard.press("ArrowUp");
  await ana.waitForTimeout(400);
  await ana.keyboard.press("Shift+ArrowRight");
  await expect(ana.getByText(/SO-\d+ becomes complete/)).toBeVisible();
  await ana.screenshot({ path: shot("shortages"), animations: "disabled" });
  await go("/allocation?compare=First+come");
  await ana.keyboard.press("e");
  await expect(ana.getByRole("button", { name: /^Differ/ })).toBeVisible();
  await ana.waitForTimeout(500);
  await ana.screenshot({ path: shot("allocation"), animations: "disabled" });
  const max = await signIn(browser, "manager");
  await max.goto("/policies");
  await max.getByRole("row", { name: /Fair shares/ }).click();
  await max.keyboard.press("Enter");
  await max.getByRole("button", { name: "Reserve stock" }).click();
  await max.waitForTimeout(300);
  await max.screenshot({ path: shot("policies"), animations: "disabled" });
  await go("/lots?only=" + encodeURIComponent(JSON.stringify(["item=GL-2145-25", "lot=M214"])));
  await ana.screenshot({ path: shot("lots"), animations: "disabled" });
  await go("/release");
  for (let i = 0; i < 4; i++) {
    await ana.keyboard.press("Space");
    await ana.keyboard.press("ArrowDown");
  }
  await expect(ana.getByRole("region", { name: "Tray" })).toContainText("4 lines");
  await ana.waitForTimeout(400);
  await ana.screenshot({ path: shot("release"), animations: "disabled" });
  const wished = new Date(Date.now() + 6 * 864e5).toISOString().slice(0, 10);
  await go(`/promise?sku=CB-110&qty=144&wished=${wished}`);
  await ana.screenshot({ path: shot("promise"), animations: "disabled" });
  await go(`/promise?sku=CB-110&qty=144&wished=${wished}&customer=C106`);
  await ana.keyboard.press("m");
  await expect(ana.getByText("Proven minimum.")).toBeVisible();
  await ana.screenshot({ path: shot("makeroom"), animations: "disabled" });
  await go("/entry?customer=C106");
  for (const [item, qty] of [
    ["GL-2040-1", "30"],
    ["GL-2075-1", "12"],
    ["CB-110", "200"],
    ["KL-070", "1"],
    ["TL-035", "6"],
  ] as const) {
    await ana.keyboard.type(item);
    await ana.keyboard.press("Enter");
    await ana.keyboard.type(qty);
    await ana.keyboard.press("Enter");
  }
  for (let i = 0; i < 3; i++) await ana.keyboard.press("ArrowUp");
  await ana.waitForTimeout(700);
  await ana.screenshot({ path: shot("entry"), animations: "disabled" });
  await go("/quotes/Q-3002");
  await ana.screenshot({ path: shot("quote"), animations: "disabled" });
  await go("/dock");
  await ana.keyboard.press("Space");
  await ana.keyboard.press("Space");
  await ana.screenshot({ path: shot("dock"), animations: "disabled" });
  await go("/items/GL-2040-1");
  await ana
    .getByRole("row", { name: /Aldersyke College/ })
    .getByRole("link")
    .click();
  await expect(ana.getByLabel("Trail").getByRole("listitem").first()).toBeVisible();
  await ana.waitForTimeout(400);
  await ana.screenshot({ path: shot("order"), animations: "disabled" });
  await importFiles(ana, {
    "autumn term.csv":
      "Order No;Pos;Account;Item Code;Colour;Ordered Qty;Requested Date;Unit Price\n" +
      "AT-1201;1;C106;CB-110;natural;1.200;13.12.2099;12,40\nAT-1201;2;C106;GL-2040-1;celadon;36;13.12.2099;11,80\n",
  });
  await expect(ana.getByRole("dialog")).toBeVisible();
  await ana.waitForTimeout(300);
  await ana.screenshot({ path: shot("import"), animations: "disabled" });
  const flo = await signIn(browser, "floor", "", { viewport: { width: 800, height: 1000 }, hasTouch: true });
  const read = <T>(path: string) => flo.evaluate(async (p) => (await fetch(p)).json() as Promise<T>, path);
  type List = { number: string; rows: number; rows_due: number; picker?: string };
  const lists = (await read<{ lists: List[] }>("/api/pick-lists")).lists;
  type Task = { bin: string; sku: string; by_lots?: boolean; held: boolean };
  let list = "";
  let tasks: Task[] = [];
  for (const l of lists.filter((l) => l.rows > 3 && l.rows_due === l.rows && !l.picker)) {
    const of = (await read<{ tasks: Task[] }>(`/api/pick-lists/${l.number}`)).tasks;
    if (tasks.length === 0 && of.slice(0, 2).every((x) => !x.by_lots && !x.held)) [list, tasks] = [l.number, of];
  }
  expect(tasks.length).toBeGreaterThan(3);
  await flo.goto(`/pick/${list}`);
  await expect(flo.getByRole("region", { name: `Row 1 of ${tasks.length}` })).toBeVisible();
  for (const text of [tasks[0]!.bin, tasks[0]!.sku, "", tasks[1]!.bin, "GL-0000-0"]) {
    await flo.keyboard.type(text);
    await flo.keyboard.press("Enter");
  }
  await expect(flo.getByRole("alert").filter({ hasText: "GL-0000-0 is wrong" })).toBeVisible();
  await flo.screenshot({ path: shot("pick"), animations: "disabled" });
  type Job = { order: string; warehouse: string; lines: { sku: string; picked: number; lots: unknown[] }[] };
  const jobs = (await read<{ jobs: Job[] }>("/api/packing")).jobs;
  const job = jobs.find((j) => j.lines.length > 2 && j.lines.every((l) => l.lots.length === 0))!;
  await flo.goto(`/pack/${job.order}?at=${job.warehouse}`);
  await expect(flo.getByRole("region", { name: "Package 1" })).toBeVisible();
  for (const text of [job.lines[0]!.sku, String(job.lines[0]!.picked), job.lines[1]!.sku]) {
    await flo.keyboard.type(text);
    await flo.keyboard.press("Enter");
  }
  await flo.waitForTimeout(400);
  await flo.screenshot({ path: shot("pack"), animations: "disabled" });
  await ana.evaluate(() => localStorage.setItem("theme", "night"));
  await go("/orders?station=picked");
  await expect(ana.locator("tr[data-row]").first()).toBeVisible();
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("button", { name: /^Recall…/ })).toBeVisible();
  await ana.keyboard.press("l");
  await expect(ana.getByRole("dialog").getByText(/To be put back/)).toBeVisible();
  await ana.waitForTimeout(400);
  await ana.screenshot({ path: shot("recall"), animations: "disabled" });
});
