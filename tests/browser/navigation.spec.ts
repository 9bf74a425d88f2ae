import { expect, type Locator } from "@playwright/test";
import { test } from "./service";

test.describe("a way through the console", () => {
  test("has a title for each page, and its heading has the focus", async ({ page, service }) => {
    await service.signIn(page);
    await expect(page).toHaveTitle("Vendors – Kettlefog");
    await page.keyboard.press("g");
    await page.keyboard.press("h");
    await expect(page.getByRole("heading", { name: "History" })).toBeFocused();
    await expect(page).toHaveTitle("History – Kettlefog");
    await page.getByRole("link", { name: "Rules" }).click();
    await expect(page.getByRole("heading", { name: /^Rules for/ })).toBeFocused();
    await expect(page).toHaveTitle("Rules for vendors – Kettlefog");
    await page.goBack();
    await expect(page).toHaveTitle("History – Kettlefog");
    await page.goto(`${service.address}/compare/vendor?key=1016&key=1017`);
    await expect(page).toHaveTitle("Compare 2 vendors – Kettlefog");
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
  });

  test("keeps a search for Back, and the menu clears it", async ({ page, service }) => {
    await service.signIn(page);
    const search = page.getByRole("textbox", { name: "Search vendors" });
    await search.fill("gann");
    await expect(page).toHaveURL(/q=gann/);
    await page.getByRole("link", { name: "1001", exact: true }).click();
    await expect(page.getByRole("heading", { name: /^Gannet Chandlery/ })).toBeVisible();
    await page.goBack();
    await expect(search).toHaveValue("gann");
    await page.getByRole("link", { name: "Records", exact: true }).click();
    await expect(page).not.toHaveURL(/q=/);
    await expect(search).toHaveValue("");
    await page.waitForTimeout(500);
    await expect(page).not.toHaveURL(/q=/);
  });

  test("leads back to the row of the list that one left", async ({ page, service }) => {
    await service.scan("contact");
    await service.signIn(page);
    await page.goto(`${service.address}/queue?type=contact`);
    const rows = page.getByRole("table", { name: "Groups" }).getByRole("row").filter({ hasText: "%" });
    await expect(rows.nth(4)).toBeVisible();
    for (let step = 0; step < 4; step++) await page.keyboard.press("j");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: /^Compare \d+ contacts$/ })).toBeVisible();
    await page.goBack();
    await expect(page.locator("tr.cursor")).toHaveAttribute("aria-rowindex", "6");
  });

  test("gives the focus back after each dialog", async ({ page, service }) => {
    await service.signIn(page);
    const opens = async (from: Locator, key: string, title: string) => {
      await from.focus();
      await page.keyboard.press(key);
      await expect(page.getByRole("dialog", { name: title })).toBeVisible();
      await page.keyboard.press("Escape");
      await expect(page.getByRole("dialog")).toHaveCount(0);
      await expect(from).toBeFocused();
    };
    const record = page.getByRole("link", { name: "1006", exact: true });
    await opens(record, "Control+k", "Find anything");
    await opens(page.getByRole("button", { name: "Find (Ctrl+K)" }), "Enter", "Find anything");
    await opens(record, "?", "Keys");
    await opens(page.getByRole("button", { name: "Keys (?)" }), "Enter", "Keys");

    const [master = "", duplicate = ""] = service.mergeable(2, 1020);
    const merge = await service.merge(master, duplicate);
    await page.goto(`${service.address}/history/${merge}`);
    await opens(page.getByRole("button", { name: /^Reverse/ }), "Enter", `Reverse merge ${merge}`);
  });

  test("finds an exact key first, and keeps the selection in sight", async ({ page, service }) => {
    await service.signIn(page);
    await page.keyboard.press("Control+k");
    const finder = page.getByRole("combobox", { name: "Find anything" });
    const found = page.getByRole("listbox", { name: "Found" }).getByRole("option");
    await finder.fill("1010");
    await expect(found.first()).toContainText("Vendor 1010");
    await finder.fill("a");
    await expect(found.nth(14)).toBeAttached();
    for (let step = 0; step < 14; step++) await page.keyboard.press("ArrowDown");
    await expect(page.locator("#finder-targets [aria-selected=true]")).toBeInViewport({ ratio: 1 });
  });

  test("starts a scan where the queue is empty, and a viewer is told why they cannot", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/queue?type=vessel`);
    await expect(page.getByText("No groups to review")).toBeVisible();
    await page.goto(service.address);
    const scanned = async () =>
      ((await service.call("/api/scans?type=vessel")) as { state: string }[]).map((scan) => scan.state);
    const before = (await scanned()).length;
    await page.getByRole("button", { name: "Scan Vessels" }).click();
    await expect.poll(scanned).toEqual(["finished", ...Array(before).fill("finished")]);
    await expect(page.getByRole("row", { name: /^Vessels/ })).not.toContainText("never");
    await service.signIn(page, "h.trewin");
    await page.goto(service.address);
    await expect(page.getByRole("button", { name: "Scan Vessels" })).toBeDisabled();
    await expect(page.getByRole("button", { name: "Scan Vessels" })).toHaveAttribute(
      "title",
      "Your role has read-only access.",
    );
  });
});
