import { expect, type Browser, type Page } from "@playwright/test";
import { importFiles, signIn, toast } from "./help";

/** Sends a command as whoever is signed in on the page. */
export const send = (page: Page, path: string, ask: unknown) =>
  page.evaluate(
    async ([path, ask]) => {
      const headers = { "Content-Type": "application/json", "Idempotency-Key": crypto.randomUUID() };
      const answer = await fetch(path as string, { method: "POST", headers, body: JSON.stringify({ ask }) });
      return (await answer.json()) as { documents: { kind: string; number: string }[]; detail?: string };
    },
    [path, ask] as const,
  );

/** Orders of some items that are released onto one pick list, which is printed; its number. */
export async function onFloor(ana: Page, prefix: string, orders: number): Promise<string> {
  await importFiles(ana, {
    "items.csv":
      "sku,name,unit,price,cost,weight_kg,barcode\n" + `${prefix}-1,Twine,roll,2,1,0.2,${prefix}00000001\n${prefix}-2,Rope,each,2,1,1,\n`,
    "stock.csv":
      "warehouse,sku,bin,zone,on_hand\n" +
      `HL,${prefix}-1,${prefix}-01-1,${prefix},30\nHL,${prefix}-1,${prefix}-09-1,${prefix},50\n` +
      `HL,${prefix}-2,${prefix}-02-3,${prefix},60\n`,
    "orders.csv":
      "order,customer,wanted,line,sku,warehouse,qty\n" +
      Array.from(
        { length: orders },
        (_, i) => `${prefix}90${i},WEB,2099-03-01,1,${prefix}-1,HL,${10 + i}\n${prefix}90${i},WEB,2099-03-01,2,${prefix}-2,HL,3\n`,
      ).join(""),
  });
  await ana.getByRole("button", { name: "Apply all of it" }).click();
  await expect(toast(ana, /^Imported/)).toBeVisible();
  const chosen = { orders: Array.from({ length: orders }, (_, i) => ({ number: `${prefix}90${i}`, seen: 0 })) };
  await send(ana, "/api/allocate", chosen);
  const out = await send(ana, "/api/release", { ...chosen, print: true });
  return out.documents.find((d) => d.kind === "pick list")!.number;
}

const tablet = { viewport: { width: 800, height: 1000 }, hasTouch: true };

export async function scanner(browser: Browser, options = tablet) {
  const flo = await signIn(browser, "floor", "", options);
  /** As a hand scanner does: characters, then Enter, wherever the focus is. */
  const scan = async (text: string) => {
    await flo.keyboard.type(text);
    await flo.keyboard.press("Enter");
  };
  const right = (text: string | RegExp) => expect(flo.locator(".floor-right[role=status]").filter({ hasText: text })).toBeVisible();
  const wrong = (text: string | RegExp) => expect(flo.getByRole("alert").filter({ hasText: text })).toBeVisible();
  return { flo, scan, right, wrong };
}
