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
  page.getByRole("table", { name: "Groups" }).getByRole("row").filter({ hasText: "%" });

test.describe("a day's queue", () => {
  test("leads from the overview to a merge in three keys, and on to the next", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(scanned.address);
    await expect(page.getByRole("heading", { name: "Last thirty days" })).toBeVisible();
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
    await page.getByRole("heading", { name: "To review", exact: true }).click();
    const before = ((await scanned.call("/api/clusters?type=vendor")) as { total: number }).total;

    // Open, merge: two keys when the suggestions are right. Blocked ones are passed over with 't'.
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: "Why they look like duplicates" })).toBeVisible();
    for (let tries = 0; tries < 8; tries++) {
      await expect(page.getByText(/(Loading|Updating) the plan/)).toHaveCount(0);
      if (await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).isEnabled()) break;
      const now = page.url();
      await page.keyboard.press("t");
      await expect(page).not.toHaveURL(now);
      await expect(page.getByRole("heading", { name: "Why they look like duplicates" })).toBeVisible();
    }
    const merged = new URL(page.url()).searchParams.get("cluster");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText(/^Merge \d+ is done: \d+ related records? moved/)).toBeVisible();
    await expect(page).not.toHaveURL(new RegExp(`cluster=${merged}(&|$)`));
    await expect(page.getByRole("heading", { name: /^Compare \d+ vendors$/ })).toBeVisible();
    await expect(page.locator("[data-cell='0.0']")).toBeFocused();
    await page.getByRole("link", { name: "Open the merge" }).click();
    await expect(page.getByRole("heading", { name: /^Merge \d+$/ })).toBeVisible();
    const history = (await scanned.call("/api/history?kind=merge&size=1")) as { items: { rule: string }[] };
    expect(history.items[0]?.rule).toBe("ready");
    await page.goto(`${scanned.address}/queue?type=vendor`);
    await expect(page.getByText(`${before - 1} groups`)).toBeVisible();
  });

  test("takes what is chosen and typed quicker than it is drawn", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue`);
    await expect(rowsOf(page).first()).toContainText("%");
    const order = await page.getByLabel("Order").elementHandle();
    await page.getByLabel("Record type").evaluate((type, order) => {
      const choose = (select: HTMLSelectElement, value: string) => {
        select.value = value;
        select.dispatchEvent(new Event("change", { bubbles: true }));
      };
      choose(type as HTMLSelectElement, "vendor");
      choose(order as HTMLSelectElement, "amount");
    }, order);
    await expect(page).toHaveURL(/queue\?type=vendor&order=amount$/);
    await expect(page.getByLabel("Record type")).toHaveValue("vendor");
    await expect(page.getByLabel("Order")).toHaveValue("amount");

    await page.goto(`${scanned.address}/history`);
    const key = page.getByRole("textbox", { name: "Key of a record" });
    await key.click();
    await page.keyboard.type("no such record 4711");
    await expect(key).toHaveValue("no such record 4711");
    await expect(page).toHaveURL(/record=no\+such\+record\+4711$/);
  });

  test("goes on in its order, back, and past what was skipped", async ({ page, scanned }) => {
    await scanned.signIn(page);
    const queue = (await scanned.call("/api/clusters?type=account&order=amount&size=100")) as {
      items: { id: number }[];
      total: number;
    };
    const ids = queue.items.map((each) => each.id);
    expect(ids.length).toBeGreaterThan(5);
    const isAt = async (place: number) => {
      await expect(page).toHaveURL(new RegExp(`cluster=${ids[place]}(&|$)`));
      await expect(page.getByText(`${place + 1} of ${queue.total}`)).toBeVisible();
      await expect(page.getByText("assigned to you")).toBeVisible();
    };
    const open = (place: number) =>
      page.goto(
        `${scanned.address}/compare/account?cluster=${ids[place]}&queue=${encodeURIComponent("type=account&order=amount")}`,
      );
    await open(0);
    await isAt(0);
    for (const place of [1, 2, 3]) {
      await page.keyboard.press("t");
      await isAt(place);
    }
    await page.keyboard.press("p");
    await isAt(2);
    await page.keyboard.press("n");
    await isAt(3);
    await page.keyboard.press("p");
    await isAt(1);
    await page.keyboard.press("t");
    await isAt(3);

    // What somebody else has is passed over.
    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = 'm.tilling' WHERE id = ${ids[4]}`);
    await page.keyboard.press("t");
    await isAt(5);
    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = NULL WHERE id = ${ids[4]}`);

    // At the ends it says so.
    await open(0);
    await isAt(0);
    await expect(page.getByRole("button", { name: "Previous (p)" })).toBeDisabled();
    await open(ids.length - 1);
    await isAt(ids.length - 1);
    await page.keyboard.press("t");
    await expect(page.getByText("That was the last group of the queue.")).toBeVisible();
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
  });

  test("marks as not duplicates and postpones, several at once, with reasons, and undoes that", async ({ page, scanned }) => {
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
    await expect(page.getByText("2 groups selected")).toBeVisible();
    await page.keyboard.press("o");
    await page.getByRole("dialog").getByLabel("Reason").fill("asked the bank");
    await page.getByLabel("Until").fill("2099-03-01");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status").getByText(/^Postponed until .*: 2 groups\.$/)).toBeVisible();
    await expect(page.getByText(`${total - 2} groups`)).toBeVisible();
    await page.keyboard.press("u");
    await expect(page.getByText("Undone.")).toBeVisible();
    await expect(page.getByText(`${total} groups`)).toBeVisible();
    await page.keyboard.press("a");
    await page.keyboard.type("two berths");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status").getByText(/^Marked as not duplicates: /)).toBeVisible();
    await expect(page.getByText(`${total - 1} groups`)).toBeVisible();
    const entries = (await scanned.call("/api/history?size=1")) as { items: { kind: string; reason: string }[] };
    expect(entries.items[0]).toMatchObject({ kind: "non-duplicates", reason: "two berths" });
    await page.getByRole("button", { name: "Undo (u)" }).click();
    await expect(page.getByText(`${total} groups`)).toBeVisible();
  });

  test("decides several groups in one call: what is refused is said, what was done can be undone", async ({
    page,
    scanned,
  }) => {
    await scanned.signIn(page);
    const listed = (await scanned.call("/api/clusters?type=account&size=100")) as {
      items: { id: number }[];
      total: number;
    };
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(2)).toContainText("%");
    for (const row of [0, 1, 2]) await rowsOf(page).nth(row).getByRole("checkbox").check();
    await expect(page.getByText("3 groups selected")).toBeVisible();

    // The second is assigned to somebody else a moment ago.
    const second = listed.items[1]?.id;
    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = 'm.tilling' WHERE id = ${second}`);
    let calls = 0;
    page.on("request", (request) => {
      if (request.method() === "POST" && request.url().includes("/api/clusters")) calls++;
    });
    await page.keyboard.press("a");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status").getByText(/^Marked as not duplicates: 2 groups\./)).toBeVisible();
    await expect(page.getByText(`Not done: Cluster ${second} is assigned to m.tilling.`)).toBeVisible();
    await expect(page.getByText(`${listed.total - 2} groups`)).toBeVisible();
    expect(calls).toBe(1);
    await page.keyboard.press("u");
    await expect(page.getByText("Undone.")).toBeVisible();
    await expect(page.getByText(`${listed.total} groups`)).toBeVisible();
    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = NULL WHERE id = ${second}`);
  });

  test("resumes what is postponed and reopens what was decided, from list, record and history", async ({
    page,
    scanned,
  }) => {
    await scanned.signIn(page);
    const found = (await scanned.call("/api/clusters?type=account&size=100")) as {
      items: { id: number; records: { key: string }[] }[];
    };
    const [first, second] = found.items.filter((each) => each.records.length === 2);
    const record = first?.records[0]?.key;
    const stateOf = async (id: number | undefined) =>
      ((await scanned.call(`/api/clusters/${id}`)) as { cluster: { state: string } }).cluster.state;
    const postpone = () =>
      scanned.call(`/api/clusters/${first?.id}/postponement`, { until: "2099-05-01", reason: "asked the bank" });

    await postpone();
    await page.goto(`${scanned.address}/queue?type=account&state=postponed`);
    await expect(rowsOf(page).first()).toContainText("postponed until 1 May 2099");
    await page.keyboard.press("r");
    await expect(page.getByText(/^Back in the queue: /)).toBeVisible();
    await expect(page.getByText("No groups", { exact: true })).toBeVisible();
    expect(await stateOf(first?.id)).toBe("open");

    await postpone();
    await page.goto(`${scanned.address}/records/account/${record}`);
    await expect(page.getByText(/Postponed until 1 May 2099 by c\.weeks: “asked the bank”/)).toBeVisible();
    await page.getByRole("button", { name: "Resume" }).click();
    await expect(page.getByText(/^Back in the queue: /)).toBeVisible();
    expect(await stateOf(first?.id)).toBe("open");

    await postpone();
    await page.goto(`${scanned.address}/compare/account?cluster=${first?.id}`);
    await expect(page.getByText(/^Postponed until 1 May 2099 by c\.weeks: “asked the bank”/)).toBeVisible();
    await page.getByRole("button", { name: "Resume (o)" }).click();
    await expect(page.getByRole("button", { name: "Postpone (o)" })).toBeEnabled();

    const mark = () => scanned.call(`/api/clusters/${second?.id}/non-duplicates`, { records: null, reason: "" });
    await mark();
    await page.goto(`${scanned.address}/queue?type=account&state=non-duplicates`);
    await expect(rowsOf(page).first()).toContainText("not duplicates");
    await page.keyboard.press("r");
    await page.keyboard.type("one owner after all");
    await page.keyboard.press("Enter");
    await expect(page.getByText(/^Reopened: /)).toBeVisible();
    expect(await stateOf(second?.id)).toBe("open");

    await mark();
    await page.goto(`${scanned.address}/records/account/${second?.records[0]?.key}`);
    await page.getByRole("link", { name: "Reopen" }).first().click();
    await page.getByRole("dialog").getByLabel("Reason").fill("looked at the wrong row");
    await page.getByRole("dialog").getByRole("button", { name: "Reopen" }).click();
    await expect(page.getByText(/^Reopened: /)).toBeVisible();
    expect(await stateOf(second?.id)).toBe("open");
    const entries = (await scanned.call("/api/history?kind=reopened")) as { items: { reason: string }[] };
    expect(entries.items.slice(0, 2).map((entry) => entry.reason)).toEqual([
      "looked at the wrong row",
      "one owner after all",
    ]);
  });

  test("counts what the overview counts, and lists just those", async ({ page, scanned }) => {
    const listed = (await scanned.call("/api/clusters?type=account&size=100")) as { items: { id: number }[] };
    const claimed = listed.items[2]?.id;
    scanned.foreign("UPDATE kettlefog_cluster SET assignee = NULL, claimed_until = NULL");
    scanned.foreign(
      `UPDATE kettlefog_cluster SET assignee = 'm.ashe', claimed_until = '2099-01-01T00:00:00.000000Z' WHERE id = ${claimed}`,
    );
    await scanned.signIn(page);
    await page.goto(scanned.address);
    const row = page.getByRole("row", { name: /^Accounts/ });
    for (const cell of [1, 2, 3, 4]) {
      const link = row.getByRole("cell").nth(cell).getByRole("link");
      if ((await link.count()) === 0) continue;
      const count = await link.innerText();
      await link.click();
      await expect(page.getByText(new RegExp(`^${count} groups?$`))).toBeVisible();
      await page.goBack();
      await expect(row).toBeVisible();
    }

    // Without a sign of life the claim lapses, and the group can be decided by others.
    await page.goto(`${scanned.address}/queue?type=account&who=somebody`);
    await expect(page.getByText("1 group", { exact: true })).toBeVisible();
    scanned.foreign(
      `UPDATE kettlefog_cluster SET claimed_until = '2020-01-01T00:00:00.000000Z' WHERE id = ${claimed}`,
    );
    await page.reload();
    await expect(page.getByText("0 groups", { exact: true })).toBeVisible();
    await page.goto(`${scanned.address}/compare/account?cluster=${claimed}`);
    await expect(page.getByText("assigned to you")).toBeVisible();

    // Signing out ends it, too.
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeVisible();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    await page.getByRole("button", { name: "Corin Weeks" }).press("Enter");
    await page.getByRole("menuitem", { name: "Sign out" }).press("Enter");
    await expect(page.getByRole("heading", { name: "Sign in to Kettlefog" })).toBeVisible();
    expect(scanned.foreign(`SELECT assignee IS NULL FROM kettlefog_cluster WHERE id = ${claimed}`)).toBe("1");
    scanned.forgetSessions();
  });

  test("does with a key what the row with the focus is, and two keys do nothing but what both mean", async ({
    page,
    scanned,
  }) => {
    await scanned.signIn(page);
    const listed = async () =>
      (await scanned.call("/api/clusters?type=account&size=100")) as { items: { id: number }[]; total: number };
    const { items, total } = await listed();
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(3)).toContainText("%");
    await page.reload();
    await expect(rowsOf(page).nth(3)).toContainText("%");
    await page.keyboard.press("g");
    await page.keyboard.press("o");
    await expect(page.getByRole("heading", { name: "Last thirty days" })).toBeVisible();
    expect((await listed()).total).toBe(total);

    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(3)).toContainText("%");
    await rowsOf(page).nth(3).getByRole("link").focus();
    await page.keyboard.press("a");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status").getByText(/^Marked as not duplicates: /)).toBeVisible();
    const left = (await listed()).items.map((each) => each.id);
    expect(items.map((each) => each.id).filter((id) => !left.includes(id))).toEqual([items[3]?.id]);
    await page.keyboard.press("u");
    await expect(page.getByText("Undone.")).toBeVisible();
  });

  test("is shared: who opens a group has it assigned, and others are told", async ({ page, scanned }) => {
    await scanned.signIn(page);
    const three = await clusterOf(scanned, "vendor", "1003");
    await page.goto(`${scanned.address}/compare/vendor?cluster=${three?.id}`);
    await expect(page.getByText("assigned to you")).toBeVisible();
    expect((await clusterOf(scanned, "vendor", "1003"))?.assignee).toBe("c.weeks");

    // Beside each other are the master and one of the others; another firm is taken out, and comes back.
    await page.getByRole("tab").nth(1).click();
    await expect(page.getByRole("tab").nth(1)).toHaveAttribute("aria-selected", "true");
    await page.getByRole("columnheader", { name: /1005/ }).getByRole("button", { name: "Leave out" }).click();
    await page.getByRole("button", { name: "1005 is not a duplicate" }).click();
    await page.keyboard.press("Enter");
    await expect(page.getByText("1005 is marked as not a duplicate of the others.")).toBeVisible();
    await page.keyboard.press("u");
    await expect(page.getByText("Undone.")).toBeVisible();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
    await expect.poll(async () => (await clusterOf(scanned, "vendor", "1003"))?.assignee).toBeNull();

    scanned.foreign(`UPDATE kettlefog_cluster SET assignee = 'm.tilling' WHERE id = ${three?.id}`);
    await page.goto(`${scanned.address}/compare/vendor?cluster=${three?.id}`);
    await expect(page.getByText("assigned to m.tilling", { exact: false }).first()).toBeVisible();
    await expect(page.getByRole("button", { name: "Not duplicates (a)" })).toBeDisabled();
    await expect(page.getByText("Assigned to m.tilling: take it over first.")).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();
    await page.getByRole("button", { name: "Take over from m.tilling" }).click();
    await expect(page.getByText("assigned to you")).toBeVisible();
    await expect(page.getByRole("button", { name: "Not duplicates (a)" })).toBeEnabled();
    expect((await clusterOf(scanned, "vendor", "1003"))?.assignee).toBe("c.weeks");
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
  });

  test("says who decided a cluster, and reopens it; records marked as not duplicates merge only by reopening", async ({
    page,
    scanned,
  }) => {
    await scanned.signIn(page);
    const found = (await scanned.call("/api/clusters?type=account&size=100")) as {
      items: { id: number; records: { key: string }[] }[];
    };
    const cluster = found.items.find((each) => each.records.length === 2);
    await scanned.call(`/api/clusters/${cluster?.id}/non-duplicates`, {
      records: null,
      reason: "father and son",
    });
    await page.goto(`${scanned.address}/compare/account?cluster=${cluster?.id}`);
    await expect(page.getByRole("heading", { name: "Marked as not duplicates" })).toBeVisible();
    await expect(page.getByText(/By c\.weeks, .*“father and son”/)).toBeVisible();
    const axe = await new AxeBuilder({ page })
      .withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"])
      .analyze();
    expect(axe.violations).toEqual([]);

    const keys = cluster?.records.map((record) => `key=${record.key}`).join("&");
    await page.goto(`${scanned.address}/compare/account?${keys}`);
    await expect(page.getByText(/were marked as not duplicates by c\.weeks on .*“father and son”/)).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();
    await page.getByRole("button", { name: "Reopen and merge" }).click();
    await expect(page).toHaveURL(/reopen=true/);
    await expect(page.getByText(/The merge reopens a decision/)).toBeVisible();

    await page.goto(`${scanned.address}/compare/account?cluster=${cluster?.id}`);
    await expect(page.getByRole("heading", { name: "Marked as not duplicates" })).toBeVisible();
    await page.keyboard.press("r");
    await page.keyboard.type("one person after all");
    await page.keyboard.press("Enter");
    await expect(page.getByText(/^Reopened: /)).toBeVisible();
    await expect(page.getByRole("heading", { name: "Compare 2 accounts" })).toBeVisible();
    await expect(page.getByRole("button", { name: "Not duplicates (a)" })).toBeEnabled();
    await page.keyboard.press("b");
    await expect(page.getByRole("heading", { name: "To review", exact: true })).toBeVisible();
  });

  test("says so when nothing waits, and when a cluster is not there", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=household`);
    await expect(page.getByText("No groups to review")).toBeVisible();
    await page.goto(`${scanned.address}/compare/vendor?cluster=999999`);
    await expect(page.getByText("There is no cluster 999999.")).toBeVisible();
    await page.goto(`${scanned.address}/records/vendor/1001`);
    await expect(page.getByRole("heading", { name: "Similar records" })).toBeVisible();
    await page.getByRole("link", { name: "Compare with 1002" }).click();
    await expect(page.getByRole("heading", { name: "Compare 2 vendors" })).toBeVisible();
    await expect(page.locator("mark", { hasText: "t" }).first()).toBeVisible();

    // The bills themselves, and another record, without leaving.
    await page.getByRole("button", { name: "Open bills" }).click();
    await expect(
      page
        .getByRole("region", { name: "Related records side by side" })
        .getByRole("columnheader", { name: "Bill number" }),
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
    await expect(page.getByText("50,000 groups")).toBeVisible();
    expect(await rowsOf(page).count()).toBeLessThan(60);
    await page.locator(".queue").evaluate((list) => list.scrollTo({ top: list.scrollHeight / 2 }));
    await expect(rowsOf(page).nth(5)).toBeVisible();
    await page.locator(".queue").evaluate((list) => list.scrollTo({ top: list.scrollHeight }));
    await expect(page.locator('[aria-rowindex="50001"]')).toContainText("%");
    scanned.foreign("DELETE FROM kettlefog_cluster WHERE id > 1000000");
    scanned.foreign("DELETE FROM kettlefog_cluster_record WHERE cluster > 1000000");
  });
});
