import { expect, type Locator, type Page } from "@playwright/test";
import { Service, test } from "./service";

const keysOf = (keys: (number | string)[]) => keys.map((key) => `key=${key}`).join("&");

/** Whether nothing covers the beginning of an element. */
const isOnTop = (locator: Locator) =>
  locator.evaluate((element) => {
    const { left, top, height } = element.getBoundingClientRect();
    return element.contains(document.elementFromPoint(left + 8, top + height / 2));
  });

const isWide = (page: Page) =>
  page.evaluate(() => document.documentElement.scrollWidth > document.documentElement.clientWidth);

test.describe("values", () => {
  test("are joined, added up, typed with what fits, and given back to the rule, each by one key", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    service.foreign(
      "UPDATE vendor SET remark = 'Pays late.', credit_limit = 500 WHERE vendor_id = 1010; UPDATE vendor SET remark = 'Ask for Maud.', credit_limit = 250.5 WHERE vendor_id = 1012",
    );
    await page.goto(`${service.address}/compare/vendor?${keysOf([1010, 1012])}`);
    await page.getByRole("button", { name: /^Remark of 1010/ }).focus();
    await page.keyboard.press("+");
    await expect(page.getByText("all texts, with their origin, your choice")).toBeVisible();
    await expect(page.getByRole("row", { name: /differs: Remark/ })).toContainText("Ask for Maud.");
    await page.getByRole("button", { name: "Add up Credit limit" }).click();
    await expect(page.getByRole("row", { name: /Credit limit/ })).toContainText("750.5");
    await page.reload();
    await expect(page.getByText("the sum of all, your choice")).toBeVisible();
    await page.getByRole("button", { name: /^Credit limit of 1010/ }).focus();
    await page.keyboard.press("r");
    await expect(page.getByText("the sum of all, your choice")).toHaveCount(0);
    await page.keyboard.press("e");
    await page.getByLabel("New value for Credit limit").fill("lots");
    await page.keyboard.press("Enter");
    await expect(page.getByText(/'lots' is not/)).toBeVisible();
    await page.getByLabel("New value for Credit limit").fill("1200.50");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("row", { name: /Credit limit/ })).toContainText("typed in");
  });

  test("are walked through as a grid, and shown by what differs, all, or what is missing", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?${keysOf([1016, 1017, 1018])}`);
    await expect(page.getByRole("grid", { name: "Records side by side" })).toBeVisible();
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
    await page.keyboard.press("End");
    await expect(page.locator("[data-cell='0.2']")).toBeFocused();
    await page.keyboard.press("Control+End");
    await expect(page.locator("[data-cell$='.2']").last()).toBeFocused();
    await page.keyboard.press("Control+Home");
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
    await expect(page.getByRole("gridcell", { selected: true }).first()).toBeVisible();
    const fields = () => page.locator("[data-cell$='.0']").count();
    const differing = await fields();
    await page.keyboard.press("d");
    await expect(page).toHaveURL(/show=all/);
    await expect.poll(fields).toBeGreaterThan(differing);
    await page.keyboard.press("d");
    await expect(page).toHaveURL(/show=gaps/);
    await expect.poll(fields).toBeLessThan(differing);
    for (const row of await page.locator("tr:has([data-cell])").all())
      await expect(row).toContainText("blank");
    await page.keyboard.press("d");
    await expect(page).not.toHaveURL(/show=/);
  });

  test("are chosen by one key each, and one key shows the rows behind them", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?${keysOf([1010, 1012])}`);
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
    await page.keyboard.press("1");
    await page.keyboard.press("2");
    await page.keyboard.press("2");
    await expect(page.getByText("from 1012, your choice; replaces the master's").first()).toBeVisible();
    const url = new URL(page.url()).searchParams;
    expect([...url.entries()].filter(([name]) => name.startsWith("from."))).toHaveLength(3);
    await page.getByRole("button", { name: "Open bills" }).click();
    await expect(page).toHaveURL(/rows=bills/);
    await page.reload();
    await expect(page.getByText("Bill number").first()).toBeVisible();
  });

  test("of many records stand beside one another without the page scrolling sideways", async ({ page, service }) => {
    await service.signIn(page);
    const keys = service
      .foreign(
        "SELECT vendor_id FROM vendor WHERE vendor_id > 1020 AND status = 'active' ORDER BY 1 DESC LIMIT 9",
      )
      .split("\n");
    await page.goto(`${service.address}/compare/vendor?${keysOf(keys.slice(0, 8))}&show=all`);
    await expect(page.getByRole("heading", { name: "Compare 8 vendors" })).toBeVisible();
    await expect(page.locator("[data-cell='0.7']")).toBeVisible();
    expect(await isWide(page)).toBe(false);

    // On a wide screen eight of them are in sight at once.
    await page.setViewportSize({ width: 1920, height: 1080 });
    await expect(page.locator("[data-cell='0.7']")).toBeInViewport();
    await expect(page.locator("[data-cell='0.0']")).toBeInViewport();

    // What has the focus stays in sight when there is less room, and is never behind the columns that stay.
    await page.locator("[data-cell='0.7']").focus();
    await page.setViewportSize({ width: 1280, height: 800 });
    await expect(page.locator("[data-cell='0.7']")).toBeInViewport({ ratio: 0.9 });
    for (let column = 6; column >= 0; column--) {
      await page.keyboard.press("ArrowLeft");
      const cell = page.locator(`[data-cell='0.${column}']`);
      await expect(cell).toBeFocused();
      expect(await isOnTop(cell), `column ${column}`).toBe(true);
    }

    await page.goto(`${service.address}/compare/vendor?${keysOf(keys)}&show=all`);
    await expect(page.getByRole("heading", { name: "Compare 9 vendors" })).toBeVisible();
    await page.locator("[data-cell='0.8']").focus();
    await expect(page.locator("[data-cell='0.8']")).toBeInViewport();
    expect(await isWide(page)).toBe(false);
  });

  test("of what is merged along are compared and chosen in place", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/account?key=1&key=2`);
    const offer = page
      .getByRole("listitem")
      .filter({ has: page.getByRole("checkbox", { name: /^Contacts: 1 Rhoda/ }) });
    await offer.getByText("Differences between them").click();
    await expect(offer.getByRole("button", { name: "Family name of 2: MARRICK" })).toBeDisabled();
    await offer.getByRole("checkbox").click();
    await expect(offer.getByText(/related records? moves?/)).toBeVisible();
    await offer.getByRole("button", { name: "Family name of 2: MARRICK" }).click();
    await expect(offer.getByText("from 2, your choice")).toBeVisible();
    await page.reload();
    await offer.getByText("Differences between them").click();
    await expect(offer.getByText("from 2, your choice")).toBeVisible();
    await expect(offer.getByRole("button", { name: "Family name of 2: MARRICK" })).toHaveAttribute(
      "aria-pressed",
      "true",
    );
  });
});

test("related rows are searched where they are shown", async ({ page, service }) => {
  await service.signIn(page);
  await page.goto(`${service.address}/records/vendor/1001`);
  await page.getByRole("tab", { name: /^Bills/ }).click();
  const panel = page.getByRole("tabpanel", { name: /^Bills/ });
  await expect(panel.getByText(/^\d+ in all$/)).toBeVisible();
  const number = await panel.getByRole("row").nth(2).getByRole("cell").nth(1).innerText();
  await panel.getByRole("textbox", { name: "Search bills" }).fill(number);
  // A vendor that another test has merged may have the bill twice.
  const found = service.foreign(
    `SELECT COUNT(*) FROM vendor_bill WHERE vendor_id = 1001 AND bill_number = '${number}'`,
  );
  await expect(panel.getByText(`${found} found`)).toBeVisible();
  await panel.getByRole("textbox", { name: "Search bills" }).fill("nobody has this");
  await expect(panel.getByText("No matches.")).toBeVisible();
});

test("where the map wants a reason, the button says so until there is one", async ({ page }) => {
  const strict = await Service.start(60, (map) =>
    map.replace("    owner: buyer\n", "    owner: buyer\n    require_reason: true\n"),
  );
  try {
    await strict.signIn(page);
    await page.goto(`${strict.address}/compare/vendor?key=1001&key=1002`);
    await expect(page.getByText("A reason is required.")).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status")).toHaveText(/^Not merged. A reason is required./);
    await page.getByRole("textbox", { name: "Reason" }).fill("one firm");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByText(/Merge 1 is done/)).toBeVisible();
    await page.getByRole("link", { name: "Open the merge" }).click();
    await page.getByRole("button", { name: "Reverse this merge" }).click();
    await expect(page.getByText("A reason is required.")).toBeVisible();
    await page.getByRole("textbox", { name: "Reason" }).fill("two firms after all");
    await page.getByRole("button", { name: "Reverse merge", exact: true }).click();
    await expect(page.getByRole("heading", { name: "Reversal 2" })).toBeVisible();
  } finally {
    strict.stop();
  }
});
