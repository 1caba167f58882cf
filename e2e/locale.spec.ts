import { expect, type Page } from "@playwright/test";
import { nothingSerious, signIn, test } from "./help";

/** The next day of that weekday after today, or so many days from today, as YYYY-MM-DD. */
const from = (page: Page, days: number) =>
  page.evaluate(async (n) => {
    const { today } = (await (await fetch("/api/strip")).json()) as { today: string };
    return new Date(Date.parse(`${today}T00:00:00Z`) + n * 864e5).toISOString().slice(0, 10);
  }, days);

const written = (locale: string, day: string) =>
  new Intl.DateTimeFormat(locale, { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" })
    .format(new Date(day))
    .replace(/,/g, "");

for (const locale of ["en-GB", "en-US"])
  test(`days are written and read in the ${locale} way`, async ({ browser }) => {
    const ana = await signIn(browser, "coordinator", "", { locale, timezoneId: "Pacific/Auckland" });
    await ana.goto("/promise?sku=CB-110&qty=20&warehouse=HL");
    const field = ana.getByLabel("Requested date", { exact: true });
    await expect(field).not.toHaveValue("");
    const wished = () => new URL(ana.url()).searchParams.get("wished");

    // From today; what is understood stands beneath while it is typed.
    const day = await from(ana, 20);
    await field.fill("+20");
    await expect(ana.getByRole("status").filter({ hasText: written(locale, day) })).toBeVisible();
    await field.press("Enter");
    await expect.poll(wished).toBe(day);
    await expect(field).toHaveValue(written(locale, day));

    // By name, and as the locale writes numbers.
    await field.fill("1 dec 2027");
    await field.press("Tab");
    await expect.poll(wished).toBe("2027-12-01");
    await field.fill("4/5/2027");
    await field.press("Enter");
    await expect.poll(wished).toBe(locale === "en-US" ? "2027-04-05" : "2027-05-04");
    await field.press("ArrowUp");
    await expect.poll(wished).toBe(locale === "en-US" ? "2027-04-06" : "2027-05-05");

    // What is no day is refused in words, and the day stays.
    await field.fill("someday");
    await field.press("Enter");
    await expect(ana.getByRole("alert").filter({ hasText: "“someday” is not a day" })).toBeVisible();
    expect(wished()).toBe(locale === "en-US" ? "2027-04-06" : "2027-05-05");
    await field.press("Escape");
    await expect(ana.getByRole("alert")).toHaveCount(0);

    // The calendar begins the week as the locale does; keys go through it, and the focus comes back to the field.
    await field.press("Alt+ArrowDown");
    const calendar = ana.getByRole("dialog", { name: "Requested date" });
    await expect(calendar.getByRole("columnheader", { includeHidden: true }).first()).toHaveText(locale === "en-US" ? "Sun" : "Mon");
    await expect(calendar.getByText(locale === "en-US" ? "April 2027" : "May 2027").first()).toBeVisible();
    await expect(calendar.getByRole("button", { name: /selected/ })).toBeFocused();
    await nothingSerious(ana);
    await ana.keyboard.press("PageDown");
    await ana.keyboard.press("ArrowRight");
    await ana.keyboard.press("Enter");
    await expect.poll(wished).toBe(locale === "en-US" ? "2027-05-07" : "2027-06-06");
    await expect(field).toBeFocused();
    await field.press("Alt+ArrowDown");
    await expect(calendar).toBeVisible();
    await ana.keyboard.press("Escape");
    await expect(calendar).toHaveCount(0);
    await expect(field).toBeFocused();

    // Lists, too.
    await ana.goto("/orders?sort=wanted");
    const month = locale === "en-US" ? /(Mon|Tue|Wed|Thu|Fri|Sat|Sun) [A-Z][a-z]{2} \d/ : /(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d+ [A-Z][a-z]{2}/;
    await expect(ana.locator("tr[data-row]").first()).toContainText(month);

    // And so are the days in what the server says.
    await ana.goto("/promise?sort=day&down=true");
    await expect(ana.getByText(new RegExp(`^PO-\\d+ due ${month.source}`)).first()).toBeVisible();
  });
