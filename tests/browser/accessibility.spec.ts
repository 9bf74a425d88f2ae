import AxeBuilder from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";
import { test } from "./service";

const everything = (builder: AxeBuilder) =>
  builder.withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]);
const contrast = (builder: AxeBuilder) => builder.withRules(["color-contrast", "link-in-text-block"]);

const pages: [string, string, string][] = [
  ["the overview", "/", "Last thirty days"],
  ["an empty queue", "/queue", "No groups to review"],
  ["the list", "/records/vendor?q=gann", "Gann"],
  ["the list with nothing found", "/records/vendor?q=nobody+has+this", "No vendors found"],
  ["a record", "/records/vendor/1010", "Related records"],
  ["a comparison of three", "/compare/vendor?key=1016&key=1017&key=1018&show=all", "Result"],
  ["a blocked comparison", "/compare/vendor?key=1006&key=1007", "Blocked:"],
  [
    "a comparison with what is merged along",
    `/compare/account?key=1&key=2&along=${encodeURIComponent('["contact","1","2"]')}`,
    "Households:",
  ],
  ["the history", "/history", "History"],
  ["the rules", "/rules/vendor", "Pairs at"],
  ["nothing learned yet", "/rules/vendor?learning=", "Nothing is learned yet"],
  ["the users and sessions", "/settings", "Your password"],
  ["the tokens", "/settings/tokens", "Purpose"],
  ["the map", "/settings/map", "References"],
  ["a problem", "/records/vendor/4711", "no vendor with the key"],
];

for (const [name, path, text] of pages) {
  test(`${name} meets WCAG 2.2 AA`, async ({ page, service }) => {
    await service.begin(page);
    await page.goto(service.address + path);
    await expect(page.getByRole("main").getByText(text).first()).toBeVisible();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    await expectAccessible(page);
  });
}

test("a decision in the history meets WCAG 2.2 AA", async ({ page, service }) => {
  await service.begin(page);
  const pair = { recordType: "vendor", a: "1012", b: "1013", reason: "two firms of one name" };
  const entry = (await service.call("/api/non-duplicates", pair)) as { summary: { number: number } };
  await page.goto(`${service.address}/history`);
  const row = page.getByRole("row", { name: /1012, 1013 marked as not duplicates/ }).first();
  await expect(row).toContainText("Not duplicates");
  await expectAccessible(page);
  await row.getByRole("link", { name: /marked as/ }).click();
  await expect(page).toHaveURL(new RegExp(`/history/${entry.summary.number}$`));
  await expect(page.getByText("two firms of one name").first()).toBeVisible();
  await expectAccessible(page);
});

test("the sign-in meets WCAG 2.2 AA", async ({ page, service }) => {
  await page.goto(`${service.address}/history`);
  await expect(page.getByRole("heading", { name: "Sign in to Kettlefog" })).toBeVisible();
  await expectAccessible(page);
});

test("the key list and the finder meet WCAG 2.2 AA", async ({ page, service }) => {
  await service.begin(page);
  await page.goto(`${service.address}/history`);
  await expect(page.getByRole("heading", { name: "History" })).toBeVisible();
  await page.keyboard.press("?");
  await expect(page.getByRole("heading", { name: "Comparing" })).toBeVisible();
  await expectAccessible(page);
  await page.keyboard.press("Escape");
  await page.keyboard.press("Control+k");
  await page.getByRole("combobox", { name: "Find anything" }).fill("gann");
  await expect(page.getByRole("option", { name: /Vendor/ }).first()).toBeVisible();
  await expectAccessible(page);
});

test("a merge and its way back meet WCAG 2.2 AA", async ({ page, service }) => {
  await service.begin(page);
  const number = await service.merge("1019", "1020");
  await page.goto(`${service.address}/history/${number}`);
  await expect(page.getByText("All values before the merge")).toBeVisible();
  await expectAccessible(page);
  await page.getByRole("button", { name: "Reverse this merge" }).click();
  await expect(page.getByRole("button", { name: "Reverse merge" })).toBeEnabled();
  await expectAccessible(page);
});

/** Expects that nothing is amiss in light, and no colour in dark: all else the two share. */
async function expectAccessible(page: Page): Promise<void> {
  await settled(page);
  expect(await violationsOf(page, everything), "in light").toEqual([]);
  await page.emulateMedia({ colorScheme: "dark" });
  await expect(page.locator("html")).toHaveAttribute("data-mantine-color-scheme", "dark");
  await settled(page);
  expect(await violationsOf(page, contrast), "in dark").toEqual([]);
  await page.emulateMedia({ colorScheme: "light" });
  await expect(page.locator("html")).toHaveAttribute("data-mantine-color-scheme", "light");
}

/** Nothing moves or fades any more: half-faded text has another contrast. */
async function settled(page: Page): Promise<void> {
  await page.evaluate(() => {
    const ending = document
      .getAnimations()
      .filter((each) => each.effect?.getComputedTiming().endTime !== Number.POSITIVE_INFINITY);
    return Promise.all(ending.map((each) => each.finished.catch(() => undefined)));
  });
}

async function violationsOf(page: Page, check: (builder: AxeBuilder) => AxeBuilder): Promise<string[]> {
  const found = await check(new AxeBuilder({ page })).analyze();
  expect(found.passes.length, "something was checked").toBeGreaterThan(0);
  return found.violations.map(
    (each) => `${each.id}: ${each.nodes.map((node) => node.html.slice(0, 120)).join(" | ")}`,
  );
}
