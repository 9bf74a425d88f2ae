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
    const section = (name: string) => page.getByRole("tab", { name, exact: true }).click();
    await section("Health");
    await expect(page.getByRole("region", { name: "Health" })).toContainText("works");
    await section("Map");
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

    await section("People");
    await expect(page).toHaveURL(`${service.address}/settings`);
    const users = page.getByRole("region", { name: "Users" });
    await expect(users.getByRole("button", { name: "Add" })).toBeDisabled();
    await users.getByLabel("Name", { exact: true }).fill("t.harker");
    await users.getByLabel("Full name").fill("Tamsin Harker");
    await users.getByLabel("Role").selectOption("viewer");
    await users.getByLabel("Password").first().fill("short");
    await expect(users.getByText("A password needs at least 12 characters.")).toBeVisible();
    await expect(users.getByRole("button", { name: "Add" })).toBeDisabled();
    await users.getByLabel("Password").first().fill("password1234");
    await users.getByRole("button", { name: "Add" }).click();
    await expect(users.getByRole("alert")).toBeVisible();
    await users.getByLabel("Password").first().fill("a tide over the bar");
    await users.getByRole("button", { name: "Add" }).click();
    await expect(page.getByText("Tamsin Harker can sign in as “t.harker”.")).toBeVisible();
    await expect(users.getByRole("row", { name: /^t.harker Tamsin Harker viewer/ })).toBeVisible();

    await section("Tokens");
    await expect(page).toHaveURL(`${service.address}/settings/tokens`);
    const tokens = page.getByRole("region", { name: "Tokens" });
    await tokens.getByLabel("Valid for").selectOption("30 days");
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

  test("let an administrator change users and end sessions, but keep the last administrator", async ({
    page,
    browser,
    service,
  }) => {
    const elsewhere = await browser.newPage();
    await service.signIn(elsewhere);
    await service.signIn(page, "m.ashe");
    await page.goto(`${service.address}/settings`);
    const users = page.getByRole("region", { name: "Users" });
    const dialog = page.getByRole("dialog");

    // A new role ends the sessions of the user, who signs in again over the page.
    await users.getByRole("button", { name: "Change Corin Weeks" }).press("Enter");
    await expect(dialog.getByLabel("Full name")).toBeFocused();
    await expect(dialog.getByText("Nothing is changed yet.")).toBeVisible();
    await expect(dialog.getByRole("button", { name: "Save" })).toBeDisabled();
    await dialog.getByLabel("Role").selectOption("viewer");
    await dialog.getByRole("button", { name: "Save" }).click();
    await expect(page.getByText("Corin Weeks: viewer, may sign in.")).toBeVisible();
    await expect(users.getByRole("button", { name: "Change Corin Weeks" })).toBeFocused();
    await expect(users.getByRole("row", { name: /^c.weeks Corin Weeks viewer/ })).toBeVisible();
    expect((await elsewhere.request.get(`${service.address}/api/session`)).status()).toBe(401);
    await elsewhere.getByRole("link", { name: "History" }).click();
    await expect(elsewhere.getByRole("dialog", { name: "Your session has ended" })).toBeVisible();
    service.forgetSessions();
    await service.signIn(elsewhere);
    await page.reload();

    // So does one whose session is ended.
    const sessions = page.getByRole("region", { name: "Sessions" });
    await expect(sessions.getByText("this session")).toBeVisible();
    await sessions
      .getByRole("button", { name: /^End the session of c.weeks/ })
      .first()
      .click();
    await expect(sessions.getByRole("row", { name: /^c.weeks/ })).toHaveCount(0);
    await elsewhere.getByRole("link", { name: "History" }).click();
    await expect(elsewhere.getByRole("dialog", { name: "Your session has ended" })).toBeVisible();

    await users.getByRole("button", { name: "Change Corin Weeks" }).click();
    await dialog.getByLabel("Role").selectOption("operator");
    await dialog.getByLabel("May sign in").uncheck();
    await dialog.getByRole("button", { name: "Save" }).click();
    await expect(users.getByRole("row", { name: /^c.weeks Corin Weeks operator disabled/ })).toBeVisible();

    await users.getByRole("button", { name: "Change Maud Ashe" }).click();
    await dialog.getByLabel("May sign in").uncheck();
    await dialog.getByRole("button", { name: "Save" }).click();
    await expect(dialog.getByRole("alert")).toContainText("Maud Ashe is the last administrator.");
    await page.keyboard.press("Escape");
    await expect(
      users.getByRole("row", { name: /^m.ashe Maud Ashe administrator may sign in/ }),
    ).toBeVisible();
    await elsewhere.close();
    service.onMachine("change-user", "c.weeks", "--enable");
    service.forgetSessions();
  });

  test("let everybody change the own password", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/settings`);
    const own = page.getByRole("region", { name: "Your password" });
    await own.getByLabel("Current password").fill("not this one");
    await own.getByLabel("New password").fill("spring");
    await expect(own.getByText("The new password needs at least 12 characters.")).toBeVisible();
    await own.getByLabel("New password").fill("spring and neap");
    await own.getByRole("button", { name: "Change password" }).click();
    await expect(own.getByRole("alert")).toContainText("The current password is wrong.");
    service.onMachine("change-user", "c.weeks", "--password-stdin");
    service.forgetSessions();
    await service.signIn(page);
    await page.goto(`${service.address}/settings`);
    await own.getByLabel("Current password").fill("tide over the bar");
    await own.getByLabel("New password").fill("spring and neap");
    await own.getByRole("button", { name: "Change password" }).click();
    await expect(page.getByText("Your password is changed. Your other sessions have ended.")).toBeVisible();
    await page.reload();
    await expect(own).toBeVisible();
    service.forgetSessions();
  });

  test("tell others why they see no users, and keep light, dark and contrast", async ({ page, service }) => {
    await service.signIn(page);
    await page.getByRole("button", { name: "Corin Weeks" }).click();
    await page.getByRole("menuitem", { name: "Settings (g s)" }).click();
    await expect(page.getByText("Only administrators can see and change users.")).toBeVisible();
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
