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

const lost = "The connection to the service is lost.";

test.describe("what goes on elsewhere", () => {
  test("is seen in another tab without a reload", async ({ page, context, own }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    const count = page.getByText(/^\d+ clusters$/);
    const before = Number.parseInt(await count.innerText(), 10);
    const other = await context.newPage();
    await other.goto(`${own.address}/queue?type=vendor`);
    await expect(other.getByText(`${before} clusters`)).toBeVisible();
    await other.keyboard.press("a");
    await expect(other.getByRole("status").getByText(/^Kept apart:/)).toBeVisible();
    await expect(page.getByText(`${before - 1} clusters`)).toBeVisible();
    await other.keyboard.press("u");
    await expect(other.getByText("Taken back.")).toBeVisible();
    await expect(page.getByText(`${before} clusters`)).toBeVisible();
    await other.close();
  });

  test("is seen of a scan while it runs, and its end", async ({ page, own }) => {
    await own.signIn(page);
    await page.goto(own.address);
    await expect(page.getByRole("row", { name: /^Accounts 0 / })).toBeVisible();
    await own.call("/api/scans", { recordType: "account", scope: "whole" });
    await expect(page.getByRole("row", { name: /^Accounts [1-9]/ })).toBeVisible();
    await expect(page.getByRole("heading", { name: "Accounts by confidence" })).toBeVisible();
    await expect(page.getByText("Accounts are being scanned:")).toHaveCount(0);
  });

  test("takes a cluster in hand as soon as another program lets it", async ({ page, own }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ clusters$/)).toBeVisible();
    const { released } = await own.hold(8);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: /^Compare \d+ vendors$/ })).toBeVisible();
    await expect(page.getByText("being taken in hand…")).toBeVisible();
    await released;
    await expect(page.getByText("you have it in hand")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "Queue" })).toBeVisible();
  });

  test("leaves a cluster with nobody that was left before it could be taken in hand", async ({
    page,
    own,
  }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ clusters$/)).toBeVisible();
    const { released } = await own.hold(8);
    const refused = page.waitForResponse((response) => response.status() === 503);
    await page.keyboard.press("Enter");
    await expect(page.getByText("being taken in hand…")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "Queue" })).toBeVisible();
    await refused;
    await released;
    await page.waitForTimeout(1500);
    expect(own.foreign("SELECT COUNT(*) FROM kettlefog_cluster WHERE assignee IS NOT NULL")).toBe("0");
  });

  test("keeps two operators from overwriting each other on one cluster", async ({ page, own, browser }) => {
    await own.signIn(page);
    await page.goto(`${own.address}/queue?type=vendor`);
    await expect(page.getByText(/^\d+ clusters$/)).toBeVisible();
    await page.keyboard.press("Enter");
    await expect(page.getByText("you have it in hand")).toBeVisible();
    const there = await browser.newContext();
    const second = await there.newPage();
    await own.signIn(second, "m.ashe");
    await second.goto(page.url());
    await expect(second.getByText("c.weeks has it in hand.")).toBeVisible();
    await expect(second.getByRole("button", { name: "Keep apart (a)" })).toBeDisabled();

    // One looks at the plan, the other changes a value and merges first: the plan of the first is refused, and made anew.
    await expect(second.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    await page.getByRole("textbox", { name: "Reason" }).fill("first");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText(/^Merge \d+ is done/)).toBeVisible();
    await second.keyboard.press("Control+Enter");
    await expect(second.getByRole("alert")).toContainText(/was merged into|Changed meanwhile/);
    expect(own.foreign("SELECT COUNT(*) FROM kettlefog_history WHERE kind = 'merge'")).toBe("1");
    await there.close();

    // Whoever leaves a cluster by the menu has it in hand no more.
    const next = new URL(page.url()).searchParams.get("cluster");
    await expect(page.getByText("you have it in hand")).toBeVisible();
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
    await expect(page.getByText(/^\d+ related rows? moves?/)).toBeVisible();
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
      const pair = own
        .foreign(
          "SELECT vendor_id FROM vendor WHERE vendor_id > 1020 AND currency = 'GBP' AND legal_entity = 'SHT' AND status = 'active' ORDER BY 1 LIMIT 2",
        )
        .split("\n");
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

  test("whose session ended leads to the sign-in, and back to what was chosen", async ({
    page,
    context,
    own,
  }) => {
    own.onMachine(
      "add-user",
      "n.quill",
      "--full-name",
      "Nell Quill",
      "--role",
      "operator",
      "--password-stdin",
    );
    await own.signIn(page);
    await page.goto(`${own.address}/compare/vendor?key=1010&key=1012&from.name=1012`);
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
    await context.clearCookies();
    await page.keyboard.press("d");
    await page.reload();
    await expect(page.getByRole("heading", { name: "Sign in to Kettlefog" })).toBeVisible();
    await page.getByLabel("User").fill("n.quill");
    await page.getByRole("textbox", { name: "Password" }).fill("tide over the bar");
    await page.getByRole("button", { name: "Sign in" }).click();
    await expect(page.getByText(/from 1012, your choice/)).toBeVisible();
    await expect(page.getByRole("combobox", { name: /Which fields/ })).toHaveValue("all");
  });
});
