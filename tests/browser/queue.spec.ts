import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";
import { Service, test as base } from "./service";

/** A world of its own, whose vendors and accounts were scanned. */
const test = base.extend<object, { scanned: Service }>({
  scanned: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start(200);
      await service.scan("vendor", "account");
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});

const clusterOf = async (service: Service, type: string, record: string) =>
  (
    (await service.call(`/api/clusters?type=${type}&state=all&record=${record}`)) as {
      items: { id: number; state: string; assignee: string | null }[];
    }
  ).items[0];

const rowsOf = (page: Page) =>
  page.getByRole("table", { name: "Clusters" }).getByRole("row").filter({ hasText: "%" });

test.describe("a day's queue", () => {
  test("leads from the overview to a merge in three keys, and on to the next", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(scanned.address);
    await expect(page.getByRole("heading", { name: "What waits" })).toBeVisible();
    await expect(
      page
        .getByRole("row", { name: /^Vendors/ })
        .getByRole("link")
        .nth(1),
    ).toBeVisible();
    await page.keyboard.press("g");
    await page.keyboard.press("q");
    await page.getByLabel("Record type").selectOption("vendor");
    await page.getByLabel("Order").selectOption("amount");
    await expect(page).toHaveURL(/queue\?type=vendor&order=amount/);
    await expect(rowsOf(page).first()).toContainText("%");
    await page.getByRole("heading", { name: "Queue" }).click();
    const before = ((await scanned.call("/api/clusters?type=vendor")) as { total: number }).total;

    // Open, merge: two keys when the suggestions are right. Blocked ones are passed over with 't'.
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: "Why they may be one" })).toBeVisible();
    for (let tries = 0; tries < 8; tries++) {
      await expect(page.getByText("The plan is being made", { exact: false })).toHaveCount(0);
      if (await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).isEnabled()) break;
      const now = page.url();
      await page.keyboard.press("t");
      await expect(page).not.toHaveURL(now);
      await expect(page.getByRole("heading", { name: "Why they may be one" })).toBeVisible();
    }
    const merged = new URL(page.url()).searchParams.get("cluster");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText(/^Merge \d+ is done: \d+ rows? moved/)).toBeVisible();
    await expect(page).not.toHaveURL(new RegExp(`cluster=${merged}(&|$)`));
    await expect(page.getByRole("heading", { name: /^Compare \d+ vendors$/ })).toBeVisible();
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
    await page.getByRole("link", { name: "Look at it" }).click();
    await expect(page.getByRole("heading", { name: /^Merge \d+$/ })).toBeVisible();
    await page.goto(`${scanned.address}/queue?type=vendor`);
    await expect(page.getByText(`${before - 1} clusters`)).toBeVisible();
  });

  test("keeps apart and puts off, several at once, and takes that back", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(2)).toContainText("%");
    for (const colorScheme of ["light", "dark"] as const) {
      await page.emulateMedia({ colorScheme });
      const axe = await new AxeBuilder({ page })
        .withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"])
        .analyze();
      expect(axe.violations).toEqual([]);
    }
    const total = ((await scanned.call("/api/clusters?type=account")) as { total: number }).total;
    await page.keyboard.press("x");
    await page.keyboard.press("j");
    await page.keyboard.press("x");
    await expect(page.getByText("2 clusters ticked")).toBeVisible();
    await page.keyboard.press("o");
    await expect(page.getByRole("status").getByText(/^Put off until .*: 2 clusters\.$/)).toBeVisible();
    await expect(page.getByText(`${total - 2} clusters`)).toBeVisible();
    await page.keyboard.press("u");
    await expect(page.getByText("Taken back.")).toBeVisible();
    await expect(page.getByText(`${total} clusters`)).toBeVisible();
    await page.keyboard.press("a");
    await expect(page.getByRole("status").getByText(/^Kept apart: /)).toBeVisible();
    await expect(page.getByText(`${total - 1} clusters`)).toBeVisible();
    await page.getByRole("button", { name: "Undo (u)" }).click();
    await expect(page.getByText(`${total} clusters`)).toBeVisible();
  });

  test("is shared: who opens a cluster has it in hand, and others are told", async ({ page, scanned }) => {
    await scanned.signIn(page);
    const three = await clusterOf(scanned, "vendor", "1003");
    await page.goto(`${scanned.address}/compare/vendor?cluster=${three?.id}`);
    await expect(page.getByText("you have it in hand")).toBeVisible();
    expect((await clusterOf(scanned, "vendor", "1003"))?.assignee).toBe("c.weeks");

    // Beside each other are the master and one of the others; another firm is taken out, and comes back.
    await page.getByRole("tab").nth(1).click();
    await expect(page.getByRole("tab").nth(1)).toHaveAttribute("aria-selected", "true");
    await page.getByRole("columnheader", { name: /1005/ }).getByRole("button", { name: "Leave out" }).click();
    await page.getByRole("button", { name: "1005 is another one" }).click();
    await expect(page.getByText("1005 was taken out of the cluster")).toBeVisible();
    await page.keyboard.press("u");
    await expect(page.getByText("Taken back.")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "Queue" })).toBeVisible();
    expect((await clusterOf(scanned, "vendor", "1003"))?.assignee).toBeNull();

    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = 'm.tilling' WHERE id = ${three?.id}`);
    await page.goto(`${scanned.address}/compare/vendor?cluster=${three?.id}`);
    await expect(page.getByText("m.tilling has it in hand", { exact: false }).first()).toBeVisible();
    await expect(page.getByRole("button", { name: "Keep apart (a)" })).toBeDisabled();
    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = NULL WHERE id = ${three?.id}`);
  });

  test("says so when nothing waits, and when a cluster is not there", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=household`);
    await expect(page.getByText("Nothing waits")).toBeVisible();
    await page.goto(`${scanned.address}/compare/vendor?cluster=999999`);
    await expect(page.getByText("There is no cluster 999999.")).toBeVisible();
    await page.goto(`${scanned.address}/records/vendor/1001`);
    await expect(page.getByRole("heading", { name: "May be duplicates" })).toBeVisible();
    await page.getByRole("link", { name: "Compare with 1002" }).click();
    await expect(page.getByRole("heading", { name: "Compare 2 vendors" })).toBeVisible();
    await expect(page.locator("mark", { hasText: "t" }).first()).toBeVisible();

    // The bills themselves, and another record, without leaving.
    await page.getByRole("button", { name: "Open bills" }).click();
    await expect(
      page
        .getByRole("region", { name: "The rows themselves" })
        .getByRole("columnheader", { name: "bill_number" }),
    ).toHaveCount(2);
    await page.getByRole("combobox", { name: "Add another vendor" }).fill("brackwater marin fuels");
    await page.getByRole("option", { name: /^1005 / }).click();
    await expect(page.getByRole("heading", { name: "Compare 3 vendors" })).toBeVisible();
    await expect(page).toHaveURL(/key=1001&key=1002&key=1005/);
  });

  test("finds a record of any type, or a page, from anywhere", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.keyboard.press("Control+k");
    await page.getByRole("combobox", { name: "Find anything" }).fill("marrick");
    await expect(page.getByRole("option", { name: /Contact 1$/ })).toBeVisible();
    await expect(page.getByRole("option", { name: /Household 1$/ })).toBeVisible();
    await page.getByRole("combobox", { name: "Find anything" }).fill("hist");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: "History" })).toBeVisible();
    await page.keyboard.press("Control+k");
    await page.getByRole("combobox", { name: "Find anything" }).fill("gannett*limited");
    await page.getByRole("option", { name: /Vendor 1002/ }).waitFor();
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: /^Gannett Chandlery Limited/ })).toBeVisible();
  });

  test("of fifty thousand clusters is scrolled without waiting", async ({ page, scanned }) => {
    scanned.foreign(`
      WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 50000)
      INSERT INTO kettlefog_cluster (id, record_type, state, rule, confidence, weakest, records, related_rows, found_at, changed_at)
      SELECT 1000000 + i, 'vessel', 'open', 'ready', 0.7 + (i % 300) / 1000.0, 0.7, 2, i, '2026-01-01T00:00:00.000000Z', '2026-01-01T00:00:00.000000Z' FROM n;
      WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 50000)
      INSERT INTO kettlefog_cluster_record SELECT 1000000 + i, k.column1, 'vessel', NULL FROM n, (VALUES ('1'), ('2')) k`);
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=vessel`);
    await expect(page.getByText("50,000 clusters")).toBeVisible();
    expect(await rowsOf(page).count()).toBeLessThan(60);
    await page.locator(".queue").evaluate((list) => list.scrollTo({ top: list.scrollHeight / 2 }));
    await expect(rowsOf(page).nth(5)).toBeVisible();
    await page.locator(".queue").evaluate((list) => list.scrollTo({ top: list.scrollHeight }));
    await expect(page.locator('[aria-rowindex="50001"]')).toContainText("%");
    scanned.foreign("DELETE FROM kettlefog_cluster WHERE id > 1000000");
    scanned.foreign("DELETE FROM kettlefog_cluster_record WHERE cluster > 1000000");
  });
});
