import { expect } from "@playwright/test";
import { Service, test as base } from "./service";

/** A world of its own, whose vendors were scanned, and whose service may be killed. */
const test = base.extend<object, { own: Service }>({
  own: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start(120);
      await service.scan("vendor");
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});

/** Two vendors that nothing keeps from being merged. */
const mergeablePair = (service: Service) =>
  service
    .foreign(
      "SELECT vendor_id FROM vendor WHERE vendor_id > 1020 AND currency = 'GBP' AND legal_entity = 'SHT' AND status = 'active' ORDER BY 1 LIMIT 2",
    )
    .split("\n");

const lost = "The connection to the service is lost.";

test.describe("what goes on elsewhere", () => {
  test("is seen in another tab without a reload", async ({ page, context, own }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    const count = page.getByText(/^\d+ groups$/);
    const before = Number.parseInt(await count.innerText(), 10);
    const other = await context.newPage();
    await other.goto(`${own.address}/queue?type=vendor`);
    await expect(other.getByText(`${before} groups`)).toBeVisible();
    await other.keyboard.press("a");
    await other.keyboard.press("Enter");
    await expect(other.getByRole("status").getByText(/^Marked as not duplicates:/)).toBeVisible();
    await expect(page.getByText(`${before - 1} groups`)).toBeVisible();
    await other.keyboard.press("u");
    await expect(other.getByText("Undone.")).toBeVisible();
    await expect(page.getByText(`${before} groups`)).toBeVisible();
    await other.close();
  });

  test("is seen of a scan while it runs, and its end", async ({ page, own }) => {
    await own.signIn(page);
    await page.goto(own.address);
    await expect(page.getByRole("row", { name: /^Accounts 0 / })).toBeVisible();
    await own.call("/api/scans", { recordType: "account", scope: "whole" });
    await expect(page.getByRole("row", { name: /^Accounts [1-9]/ })).toBeVisible();
    await expect(page.getByRole("heading", { name: "Accounts by confidence" })).toBeVisible();
    await expect(page.getByText("Accounts: scanning:")).toHaveCount(0);
  });

  test("claims a group as soon as another program lets it", async ({ page, own }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ groups$/)).toBeVisible();
    const { released } = await own.hold(8);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: /^Compare \d+ vendors$/ })).toBeVisible();
    await expect(page.getByText("being assigned to you…")).toBeVisible();
    await released;
    await expect(page.getByText("assigned to you")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
  });

  test("leaves a group with nobody that was left before it could be claimed", async ({
    page,
    own,
  }) => {
    // The page of another test may have been closed before it let its group go.
    own.foreign("UPDATE kettlefog_cluster SET assignee = NULL, claimed_until = NULL");
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ groups$/)).toBeVisible();
    const { released } = await own.hold(8);
    const refused = page.waitForResponse((response) => response.status() === 503);
    await page.keyboard.press("Enter");
    await expect(page.getByText("being assigned to you…")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
    await refused;
    await released;
    await page.waitForTimeout(1500);
    expect(own.foreign("SELECT COUNT(*) FROM kettlefog_cluster WHERE assignee IS NOT NULL")).toBe("0");
  });

  test("keeps two operators from overwriting each other on one cluster", async ({ page, own, browser }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ groups$/)).toBeVisible();
    await page.keyboard.press("Enter");
    await expect(page.getByText("assigned to you")).toBeVisible();
    const there = await browser.newContext();
    const second = await there.newPage();
    await own.signIn(second, "m.ashe");
    await second.goto(page.url());
    await expect(second.getByText("Assigned to c.weeks: take it over first.")).toBeVisible();
    await expect(second.getByRole("button", { name: "Not duplicates (a)" })).toBeDisabled();
    await expect(second.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();

    // One merges: the other sees at once that it is decided, by whom, and cannot merge it again.
    await page.getByRole("textbox", { name: "Reason" }).fill("first");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText(/^Merge \d+ is done/)).toBeVisible();
    await expect(second.getByRole("heading", { name: "Already merged" })).toBeVisible();
    await expect(second.getByText(/By c\.weeks, .*“first”/)).toBeVisible();
    await second.keyboard.press("Control+Enter");
    expect(own.foreign("SELECT COUNT(*) FROM kettlefog_history WHERE kind = 'merge'")).toBe("1");
    await there.close();

    // Whoever leaves a group by the menu has it no longer.
    const next = new URL(page.url()).searchParams.get("cluster");
    await expect(page.getByText("assigned to you")).toBeVisible();
    await page.getByRole("link", { name: "History" }).click();
    await expect
      .poll(() => own.foreign(`SELECT assignee IS NULL FROM kettlefog_cluster WHERE id = ${next}`))
      .toBe("1");
  });
});

test.describe("a connection", () => {
  test("that is lost is said, tried again, and what was chosen is kept", async ({ page, own }) => {
    await own.signIn(page);
    const port = new URL(own.address).port;
    await page.goto(`${own.address}/compare/vendor?key=1010&key=1012`);
    await page.getByRole("textbox", { name: "Reason" }).fill("typed before the service went away");
    await expect(page.getByText(/^\d+ related records? moves?/)).toBeVisible();
    own.kill();
    await expect(page.getByText(lost)).toBeVisible({ timeout: 30_000 });
    await page.keyboard.press("Escape");
    await page.locator("[data-cell='0.1']").click();
    await expect(page.getByText("The service cannot be reached.").first()).toBeVisible();
    await expect(page.getByRole("textbox", { name: "Reason" })).toHaveValue(
      "typed before the service went away",
    );
    await own.serve(port);
    await expect(page.getByText(lost)).toBeHidden({ timeout: 30_000 });
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
    await page.reload();
    await expect(page.getByRole("textbox", { name: "Reason" })).toHaveValue(
      "typed before the service went away",
    );
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
  });

  for (const [how, seconds] of [
    ["is asked for", 0],
    ["waits for another program", 4],
  ] as const)
    test(`that goes while a merge ${how} merges once`, async ({ page, own }) => {
      await own.signIn(page);
      const pair = mergeablePair(own);
      const merges = () => Number(own.foreign("SELECT COUNT(*) FROM kettlefog_history WHERE kind = 'merge'"));
      const before = merges();
      await page.goto(`${own.address}/compare/vendor?key=${pair[0]}&key=${pair[1]}`);
      await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();

      // The merge is done, but its answer does not arrive.
      await page.route(
        "**/api/merges",
        async (route) => {
          await route.fetch();
          await route.abort();
        },
        { times: 1 },
      );
      if (seconds > 0) await own.hold(seconds);
      const lost = page.waitForEvent("requestfailed", (request) => request.url().endsWith("/api/merges"));
      await page.keyboard.press("Control+Enter");
      await lost;
      await expect(page.getByText("The service cannot be reached.")).toBeVisible();
      // What takes longer than a second is a job, which goes on after its answer.
      await expect.poll(merges).toBe(before + 1);
      await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
      await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
      expect(merges()).toBe(before + 1);
    });

  test("whose session ended is signed in again over the page, which goes on where it was", async ({
    page,
    context,
    own,
  }) => {
    own.onMachine("add-user", "n.quill", "--full-name", "Nell Quill", "--role", "operator", "--password-stdin");
    await own.signIn(page, "n.quill");
    const [master, other] = mergeablePair(own);
    await page.goto(`${own.address}/compare/vendor?key=${master}&key=${other}&from.name=${other}`);
    const choice = page.getByText(`from ${other}, your choice`).first();
    await expect(choice).toBeVisible();
    await page.getByRole("textbox", { name: "Reason" }).fill("typed before the session ended");
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    own.forgetSessions();
    await context.clearCookies();
    const merges = () => own.foreign("SELECT COUNT(*) FROM kettlefog_history WHERE kind = 'merge'");
    const before = merges();
    await page.keyboard.press("Control+Enter");
    const again = page.getByRole("dialog", { name: "Your session has ended" });
    await expect(again).toBeVisible();
    await expect(page.locator(".note.blocker")).toHaveCount(0);
    await expect(again.getByLabel("User")).toHaveValue("n.quill");
    await again.getByRole("textbox", { name: "Password" }).fill("not this one");
    await again.getByRole("button", { name: "Sign in" }).click();
    await expect(again.getByText("The name or the password is wrong.")).toBeVisible();
    await again.getByRole("textbox", { name: "Password" }).fill("tide over the bar");
    await page.keyboard.press("Enter");
    await expect(again).toBeHidden();
    await expect(page.getByRole("textbox", { name: "Reason" })).toHaveValue("typed before the session ended");
    await expect(choice).toBeVisible();
    expect(merges()).toBe(before);
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
  });

  test("is not lost where only the browser takes itself for offline", async ({ page, context, own }) => {
    await own.signIn(page);
    await page.evaluate(() => window.dispatchEvent(new Event("offline")));
    await page.getByRole("link", { name: "To review" }).click();
    await expect(page.getByText(/^\d+ groups$/)).toBeVisible();
    await expect(page.getByText(lost)).toHaveCount(0);

    // Nor does it keep anybody from signing in, and what is typed outlives a look at another window.
    await context.clearCookies();
    await page.goto(`${own.address}/history`);
    await page.getByLabel("User").fill("c.weeks");
    await page.getByRole("textbox", { name: "Password" }).fill("not this one");
    const asked = page.waitForResponse((response) => response.url().endsWith("/api/session"));
    await page.evaluate(() => {
      window.dispatchEvent(new Event("offline"));
      window.dispatchEvent(new Event("visibilitychange"));
    });
    await asked;
    await page.getByRole("button", { name: "Sign in" }).click();
    await expect(page.getByText("The name or the password is wrong.")).toBeVisible();
    await expect(page.getByLabel("User")).toHaveValue("c.weeks");
  });

  test("that begins without a session leads to the sign-in, and back to what was chosen", async ({
    page,
    context,
    own,
  }) => {
    own.onMachine("add-user", "p.marl", "--full-name", "Pia Marl", "--role", "operator", "--password-stdin");
    await own.signIn(page);
    await page.goto(`${own.address}/compare/vendor?key=1010&key=1012&from.name=1012`);
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
    await context.clearCookies();
    const asked = await page.evaluate(() => {
      document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "d", bubbles: true }));
      return window.location.search;
    });
    expect(asked, "a choice is in the address before it is drawn").toContain("show=all");
    await page.reload();
    await expect(page.getByRole("heading", { name: "Sign in to Kettlefog" })).toBeVisible();
    await page.getByLabel("User").fill("p.marl");
    await page.getByRole("textbox", { name: "Password" }).fill("tide over the bar");
    await page.getByRole("button", { name: "Sign in" }).click();
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
    await expect(page.getByRole("combobox", { name: /Fields shown/ })).toHaveValue("all");
  });
});
