import { connect, createServer, type AddressInfo, type Socket } from "node:net";
import { expect } from "@playwright/test";
import { importFiles, newPage, nothingSerious, signIn, test, toast, watch } from "./help";

test("a manager adds somebody, gives them another role and puts them out; what they had open ends", async ({ browser }) => {
  const max = await signIn(browser, "manager");
  await max.goto("/people");
  const form = max.getByRole("form", { name: "New person" });
  await form.getByLabel("Name").fill("Nora Quay");
  await form.getByLabel("Login").fill("nora");
  await form.getByLabel("Password").fill("password");
  await form.getByRole("button", { name: "Add person" }).click();
  await expect(toast(max, /among the first that anybody tries/)).toBeVisible();
  await form.getByLabel("Password").fill("a kiln in the rain");
  await form.getByRole("button", { name: "Add person" }).click();
  await expect(toast(max, /Nora Quay may sign in as floor/)).toBeVisible();
  await nothingSerious(max);

  const nora = await newPage(browser);
  watch(nora, "|401");
  await nora.goto("/");
  const answer = await nora.request.post("/api/sign-in", {
    data: { login: "nora", password: "a kiln in the rain" },
    headers: { Origin: new URL(nora.url()).origin },
  });
  expect(answer.status()).toBe(200);
  await nora.goto("/floor");
  await expect(nora.getByRole("navigation", { name: "Stations" })).toBeVisible();

  const row = max.getByRole("row", { name: /Nora Quay/ });
  await row.getByRole("button", { name: "Nora Quay" }).click();
  const her = max.getByRole("region", { name: "Nora Quay" });
  await her.getByLabel("Role").selectOption("sales");
  await her.getByRole("button", { name: "Save" }).click();
  await expect(row).toContainText("sales");
  await her.getByRole("button", { name: "Deactivate" }).click();
  await expect(row).toContainText("deactivated");
  expect((await nora.request.get("/api/orders")).status()).toBe(401);
  // She is told at once, without touching anything.
  await expect(nora.getByRole("heading", { name: "This is the demo: choose who you are" })).toBeVisible();
});

test("a page whose stream of news is refused says so, and follows colleagues again once it is not", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator", "|503");
  const max = await signIn(browser, "manager");
  let refuse = 2;
  await ana.route("**/api/live", (route) => (refuse-- > 0 ? route.fulfill({ status: 503 }) : route.continue()));
  await ana.goto("/items?q=ZN-1");
  await expect(ana.getByText("Connection lost, trying again")).toBeVisible();
  await expect(ana.getByText("Connection lost, trying again")).toBeHidden();
  expect(refuse).toBeLessThan(0);
  await importFiles(max, {
    "items.csv": "sku,name,price,cost\nZN-1,A thing that is new,2.00,1.00\n",
  });
  await max.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(max, /^Imported/)).toBeVisible();
  await expect(ana.getByRole("gridcell", { name: "A thing that is new" })).toBeVisible();
});

test("a page whose server is gone says since when its numbers are old, and catches up when it is back", async ({ browser, baseURL }) => {
  const to = new URL(baseURL ?? "");
  const open = new Set<Socket>();
  const between = createServer((from) => {
    const server = connect(Number(to.port), to.hostname);
    for (const s of [from, server]) {
      open.add(s);
      s.on("error", () => {});
      s.on("close", () => (open.delete(s), from.destroy(), server.destroy()));
    }
    from.pipe(server).pipe(from);
  });
  const listen = (port: number) => new Promise<void>((done) => between.listen(port, "127.0.0.1", done));
  await listen(0);
  const { port } = between.address() as AddressInfo;
  try {
    const ana = await newPage(browser);
    await ana.goto(`http://127.0.0.1:${port}/`);
    await ana.getByRole("button", { name: /^coordinator/i }).click();
    await expect(ana.getByRole("navigation", { name: "Stations" })).toBeVisible();
    await ana.goto(`http://127.0.0.1:${port}/orders?station=allocated`);
    const row = ana.locator("tr[data-row]").first();
    await expect(row).toBeVisible();
    const number = await row.locator("a").first().innerText();
    await ana.goto(`http://127.0.0.1:${port}/orders/${number}`);
    await expect(ana.getByRole("button", { name: /^Release/ }).first()).toBeVisible();
    // The server is gone: what is open breaks, and nobody answers.
    between.close();
    for (const s of open) s.destroy();
    const old = ana.getByRole("status").filter({ hasText: /Connection lost, trying again\. What you see is as it was at \d\d:\d\d\./ });
    await expect(old).toBeVisible();
    const max = await signIn(browser, "manager");
    await max.goto(`/orders?q=${number}`);
    await expect(max.locator("tr[data-row]")).toHaveCount(1);
    await max.keyboard.press("Space");
    await max.keyboard.press("b");
    await expect(toast(max, /back/i)).toBeVisible();
    await listen(port);
    await expect(old).toBeHidden({ timeout: 40_000 });
    await expect(ana.getByText(/gave back/i).first()).toBeVisible();
  } finally {
    between.close();
    for (const s of open) s.destroy();
  }
});

test("what was rehearsed is there when one comes back to the page", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await ana.goto("/allocation");
  await expect(ana.getByRole("button", { name: /^Rehearse/ }).first()).toBeEnabled();
  await ana.keyboard.press("e");
  const tray = ana.getByRole("region", { name: "Tray" });
  await expect(tray).toContainText("Rehearsed");
  const said = await tray.innerText();
  await ana.getByRole("navigation", { name: "Pages" }).getByRole("link", { name: "Items" }).click();
  await expect(ana.getByRole("heading", { level: 1, name: "Items" })).toBeVisible();
  await ana.goBack();
  await expect(tray).toHaveText(said.replace(/\s+/g, " "), { useInnerText: true });

  // Its lines are rows of the grid: sorted by a column, with the order of the row in focus beside them.
  const grid = ana.getByRole("grid", { name: "Lines of the plan" });
  await grid
    .getByRole("columnheader", { name: /Wanted/ })
    .getByRole("button")
    .first()
    .click();
  await expect(ana).toHaveURL(/sort=wanted/);
  const wanted = async () => (await grid.locator("tr[data-row]").all()).length > 3;
  await expect.poll(wanted).toBe(true);
  const units = (await grid.locator("tr[data-row] td:nth-child(6)").allInnerTexts()).map((t) => Number(t.replaceAll(",", "")));
  expect(units).toEqual([...units].sort((a, b) => a - b));
  // They are grouped and filtered as other lists are.
  await ana.getByLabel("Group the rows").selectOption("By tier");
  const tree = ana.getByRole("treegrid", { name: "Lines of the plan" });
  const heads = tree.locator("tr[data-group]");
  await expect(heads.first()).toContainText(/\d+ lines?\s*[\d,]+ wanted/);
  await heads.first().click();
  await expect(heads.first()).toHaveAttribute("aria-expanded", "true");
  await expect(tree.locator("tr[data-row]:not([data-group])").first()).toHaveAttribute("aria-level", "2");
  await ana.getByLabel("Group the rows").selectOption("No groups");
  const head = grid.getByRole("columnheader", { name: /Wanted/ });
  await head.hover();
  await head.getByRole("button", { name: "Wanted: filter, group, arrange" }).click();
  await ana.getByRole("dialog", { name: "Wanted" }).getByLabel("At least").fill("1,00");
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("alert")).toHaveText("“1,00” is not a whole number.");
  await ana.getByRole("dialog", { name: "Wanted" }).getByLabel("At least").fill("20");
  await ana.keyboard.press("Enter");
  const many = async () => (await grid.locator("tr[data-row] td:nth-child(6)").allInnerTexts()).map((t) => Number(t.replaceAll(",", "")));
  await expect.poll(async () => Math.min(...(await many()))).toBeGreaterThanOrEqual(20);
  await expect(tray).toContainText("Rehearsed");
});

test("what one did is listed, and stands in the trail, with the way to undo it while nothing else has happened", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZU-1,A thing to undo,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZU-1,A-1-1,20\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nSO-9801,WEB,2099-03-01,1,ZU-1,HL,4\nSO-9802,WEB,2099-03-01,1,ZU-1,HL,5\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  for (const number of ["SO-9801", "SO-9802"]) {
    await ana.goto(`/orders/${number}`);
    await ana.getByRole("button", { name: /^Allocate what is free/ }).click();
    await expect(toast(ana, /^Allocated/)).toBeVisible();
  }
  // Long after the messages have gone the first of the two is taken back.
  await ana.goto("/items");
  await expect(ana.locator("tr[data-row]").first()).toBeVisible();
  await ana.keyboard.press("Shift+U");
  const list = ana.getByRole("list", { name: "What you did last" });
  await expect(list.getByRole("listitem").first()).toContainText("Allocated 5 of ZU-1 for SO-9802");
  await nothingSerious(ana);
  const first = list.getByRole("listitem").filter({ hasText: "SO-9801" });
  await first.getByRole("button", { name: /^Undo: / }).click();
  await expect(toast(ana, /^Undone:/)).toBeVisible();
  await expect(first.getByRole("button")).toHaveCount(0);
  await ana.keyboard.press("Escape");
  // The other in its trail; after something else has happened it is not on offer any more.
  await ana.goto("/orders/SO-9802");
  const trail = ana.getByLabel("Trail");
  await expect(trail.getByRole("button", { name: /^Undo: / })).toBeVisible();
  await ana
    .getByRole("button", { name: /^Release/ })
    .first()
    .click();
  await expect(toast(ana, /^Released/)).toBeVisible();
  await expect(trail.getByRole("listitem").filter({ hasText: "allocated 5" }).getByRole("button", { name: /^Undo/ })).toHaveCount(0);
});

test("a command whose answer is lost is done once, and the screen shows what became of it", async ({ browser }) => {
  const ana = await signIn(browser, "coordinator", "|503");
  await importFiles(ana, {
    "items.csv": "sku,name,price,cost\nZL-1,A lost thing,2.00,1.00\n",
    "stock.csv": "warehouse,sku,bin,on_hand\nHL,ZL-1,A-1-1,30\n",
    "orders.csv": "order,customer,wanted,line,sku,warehouse,qty\nSO-9400,WEB,2099-03-01,1,ZL-1,HL,20\n",
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();

  // The server does it, and its answer does not come: the outcome is not known.
  const keys: string[] = [];
  await ana.route("**/api/allocate", async (route) => {
    keys.push(route.request().headers()["idempotency-key"] ?? "");
    if (keys.length > 1) return route.continue();
    await route.fetch();
    return route.fulfill({
      status: 503,
      contentType: "application/problem+json",
      body: JSON.stringify({
        type: "urn:journeyman:outcome-unknown",
        status: 503,
        title: "Service Unavailable",
        detail: "It is not known whether this was done.",
      }),
    });
  });
  await ana.goto("/orders/SO-9400");
  await ana.getByLabel("Units to allocate").fill("12");
  await ana.keyboard.press("Enter");
  await expect(ana.getByRole("img", { name: "Line 1: open 8, allocated 12" })).toBeVisible();
  expect(new Set(keys).size).toBe(1);
});
