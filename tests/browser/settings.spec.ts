import { expect } from "@playwright/test";
import { test } from "./service";

test.describe("settings", () => {
  test("show the map as it was read, and let an administrator add users and tokens", async ({
    page,
    service,
  }) => {
    await service.signIn(page, "m.ashe");
    await page.keyboard.press("g");
    await page.keyboard.press("s");
    await expect(page.getByRole("heading", { name: "Settings" })).toBeVisible();
    await expect(page.getByRole("region", { name: "Health" })).toContainText("works");
    const map = page.getByRole("region", { name: "The map" });
    await expect(
      map
        .getByRole("table", { name: "References" })
        .getByRole("row", { name: /^Bills vendor_bill vendor_id/ }),
    ).toBeVisible();
    await expect(map.getByText("Currency must agree.")).toBeVisible();
    await map.getByRole("tab", { name: "Vessels" }).click();
    await expect(
      map.getByRole("table", { name: "Fields" }).getByRole("row", { name: /Hull number/ }),
    ).toBeVisible();

    const users = page.getByRole("region", { name: "Users" });
    await expect(users.getByRole("button", { name: "Add" })).toBeDisabled();
    await users.getByLabel("Name", { exact: true }).fill("t.harker");
    await users.getByLabel("Full name").fill("Tamsin Harker");
    await users.getByLabel("Role").selectOption("viewer");
    await users.getByLabel("Password").first().fill("short");
    await users.getByRole("button", { name: "Add" }).click();
    await expect(users.getByRole("alert")).toBeVisible();
    await users.getByLabel("Password").first().fill("a tide over the bar");
    await users.getByRole("button", { name: "Add" }).click();
    await expect(page.getByText("Tamsin Harker can sign in as 't.harker'.")).toBeVisible();
    await expect(users.getByRole("row", { name: /^t.harker Tamsin Harker viewer/ })).toBeVisible();

    const tokens = page.getByRole("region", { name: "Tokens" });
    await tokens.getByLabel("Purpose").fill("nightly export");
    await tokens.getByLabel("Purpose").press("Enter");
    const secret = await tokens.locator("code").innerText();
    const asProgram = () =>
      fetch(`${service.address}/api/session`, { headers: { Authorization: `Bearer ${secret}` } });
    expect((await asProgram()).status).toBe(200);
    await tokens.getByRole("button", { name: "Revoke the token for nightly export" }).click();
    await tokens.getByRole("button", { name: "Keep" }).click();
    await tokens.getByRole("button", { name: "Revoke the token for nightly export" }).click();
    await tokens.getByRole("button", { name: "Revoke for good" }).click();
    await expect(tokens.getByRole("row", { name: /nightly export/ })).toHaveCount(0);
    expect((await asProgram()).status).toBe(401);
  });

  test("tell others why they see no users, and keep light, dark and contrast", async ({ page, service }) => {
    await service.signIn(page);
    await page.getByRole("button", { name: "Corin Weeks" }).click();
    await page.getByRole("menuitem", { name: "Settings (g s)" }).click();
    await expect(page.getByText("Only administrators can see and add users.")).toBeVisible();
    await page.getByRole("button", { name: "Corin Weeks" }).click();
    await page.getByRole("menuitem", { name: "High contrast" }).click();
    await page.getByRole("button", { name: "Corin Weeks" }).click();
    await page.getByRole("menuitem", { name: "Dark" }).click();
    await page.reload();
    await expect(page.locator("html[data-contrast=high][data-mantine-color-scheme=dark]")).toBeAttached();
    await page.getByRole("button", { name: "Corin Weeks" }).click();
    await page.getByRole("menuitem", { name: "Standard contrast" }).click();
    await expect(page.locator("html[data-contrast]")).toHaveCount(0);
  });
});
