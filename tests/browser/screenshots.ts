import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { expect, type Page, test } from "@playwright/test";
import { Service } from "./service";

const root = join(import.meta.dirname, "../..");

/** Keeps the picture of a page, with nothing caught on its way from one state to the other. */
const keep = (page: Page, name: string) =>
  page.screenshot({ animations: "disabled", path: join(root, "docs/screenshots", `${name}.png`) });

test("the pictures of the documentation, from the demo world", async ({ page, browser }) => {
  const service = await Service.start(420);
  try {
    await service.signIn(page);
    await service.scan("vendor", "account", "contact", "household", "vessel");
    await page.getByRole("link", { name: "Overview" }).click();
    await expect(page.getByRole("heading", { name: "Households by confidence" })).toBeVisible();
    await page.waitForTimeout(400);
    await keep(page, "overview");
    await page.getByRole("link", { name: "To review", exact: true }).click();
    await expect(page.getByRole("row", { name: /%/ }).first()).toBeVisible();
    const merge = page.getByRole("button", { name: "Merge (Ctrl+Enter)" });
    for (let below = 0; below < 8; below++) {
      await page.keyboard.press("j");
      await expect(page.getByText(/(Loading|Updating) the plan/)).toHaveCount(0);
      if (await merge.isEnabled()) break;
    }
    await expect(merge).toBeEnabled();
    await keep(page, "queue");
    await page.getByRole("link", { name: "Records", exact: true }).click();
    await page.getByRole("textbox", { name: "Search vendors" }).fill("name:gann*");
    await page.waitForURL(/q=name/);
    await expect(page.locator(".panel[aria-busy=false]")).toBeVisible();
    for (const label of ["Gannet Chandlery Ltd, Saltmarrow", "Gannett Chandlery Limited, Saltmarrow"])
      await page.getByRole("checkbox", { name: `Select ${label}`, exact: true }).check();
    await keep(page, "list");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Compare (c)" }).click();
    await page.getByRole("button", { name: "E-mail of 1002: orders@gannet-chandler.example" }).click();
    await expect(page.getByText("from 1002, your choice")).toBeVisible();
    await page.evaluate(() => window.scrollTo(0, 0));
    await keep(page, "compare");
    await page.getByRole("heading", { name: "Related records", exact: true }).scrollIntoViewIfNeeded();
    await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight));
    await keep(page, "plan");
    await page.goto(`${service.address}/rules/vendor`);
    await page.getByRole("button", { name: "Add condition" }).click();
    await page.getByLabel("Field").selectOption("tax_number");
    await page.getByLabel("How values of Tax number compare").selectOption("is:same-digits");
    await page.getByRole("button", { name: "or…" }).first().click();
    await page.getByLabel("Field").nth(1).selectOption("phone");
    await page.getByLabel("How values of Phone compare").selectOption("is:same-phone");
    await expect(page.getByText("records compared")).toBeVisible();
    await keep(page, "rules");
    const administrator = await (await browser.newContext({ viewport: page.viewportSize() })).newPage();
    await service.begin(administrator, "m.ashe");
    await administrator.goto(`${service.address}/settings`);
    await expect(administrator.getByRole("table").nth(1)).toBeVisible();
    await keep(administrator, "settings");
    await administrator.context().close();
    await page.goto(
      `${service.address}/compare/account?key=1&key=2&along=${encodeURIComponent('["contact","1","2"]')}`,
    );
    await page
      .getByRole("heading", { name: "Related duplicates, merged in the same step" })
      .evaluate((heading) => heading.scrollIntoView());
    await expect(page.getByRole("checkbox", { name: /^Households/ })).toBeVisible();
    await keep(page, "linked");
    await page.goto(`${service.address}/compare/vendor?key=1001&key=1002&from.email=1002`);
    await expect(page.getByText("from 1002, your choice")).toBeVisible();
    await page.getByRole("textbox", { name: "Reason" }).fill("Same firm, typed in twice");
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText("Merge 1 is done.")).toBeVisible();
    await page.getByRole("tab", { name: /Bills/ }).click();
    await expect(page.getByText("Bill number").first()).toBeVisible();
    await keep(page, "record");
    await page.goto(`${service.address}/history/1`);
    await expect(page.getByText("All values before the merge")).toBeVisible();
    await keep(page, "merge");
    await page.getByRole("button", { name: "Reverse this merge" }).click();
    await expect(page.getByRole("button", { name: "Reverse merge" })).toBeEnabled();
    await page.waitForTimeout(400);
    await keep(page, "reversal");
    await page.goto(`${service.address}/history`);
    await expect(page.getByText("1 entry").first()).toBeVisible();
    await keep(page, "history");

    const dark = await browser.newPage({ colorScheme: "dark", viewport: { width: 1280, height: 800 } });
    await service.signIn(dark);
    await dark.goto(`${service.address}/compare/vendor?key=1003&key=1004&key=1005`);
    await expect(dark.getByText("Result", { exact: true })).toBeVisible();
    await keep(dark, "compare-dark");

    const terminal = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await command(terminal, service, "cli-clusters", ["clusters", "list", "vendor", "--size", "14"]);
    await command(terminal, service, "cli-cluster", ["clusters", "show", "2"]);
    const rule = join(mkdtempSync(join(tmpdir(), "rule-")), "rule.yaml");
    writeFileSync(rule, "any_of: [[{ field: tax_number, is: same-digits }]]\n");
    await command(terminal, service, "cli-rule", ["rules", "try", "vendor", rule]);
    await command(terminal, service, "cli-search", ["search", "vendor", "name:gann*"]);
    await command(terminal, service, "cli-plan", ["plan", "vendor", "1003", "1004", "1005"]);
    await command(terminal, service, "cli-history", ["history", "show", "1"]);
  } finally {
    service.stop();
  }
});

/** A picture of a command as it stands in a terminal. */
async function command(
  page: Page,
  service: Service,
  name: string,
  words: string[],
  kept = true,
): Promise<void> {
  const cli = join(root, "artifacts/bin/Kettlefog.Cli/release/kettlefog.dll");
  const token = service.onMachine("token", "--user", "c.weeks");
  const output = execFileSync("dotnet", [cli, ...words], {
    encoding: "utf8",
    env: { ...process.env, KETTLEFOG_URL: service.address, KETTLEFOG_TOKEN: token, COLUMNS: "178" },
  });
  if (!kept) return;
  const shown = words.map((word) => (word.includes("*") ? `'${word}'` : basename(word))).join(" ");
  const text = `$ kettlefog ${shown}\n${output}`
    .split("\n")
    .map((line) => line.trimEnd())
    .join("\n");
  await page.setContent("<pre style='margin:12px;font:11.5px/1.35 \"DejaVu Sans Mono\",monospace'></pre>");
  await page.locator("pre").evaluate((pre, content) => {
    pre.textContent = content;
  }, text);
  await keep(page, name);
}
