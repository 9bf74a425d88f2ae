import { expect, type Page } from "@playwright/test";
import { Service, test as base } from "./service";

/** A world of its own, whose vendors were scanned. */
const test = base.extend<object, { scanned: Service }>({
  scanned: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start(200);
      await service.scan("vendor");
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});

const rowsOf = (page: Page) =>
  page.getByRole("table", { name: "Groups" }).getByRole("row").filter({ hasText: "%" });

const amountsOf = async (page: Page) =>
  (await rowsOf(page).getByRole("cell").nth(3).or(rowsOf(page).locator("td:nth-child(4)")).allInnerTexts()).map(
    (text) => Number(text.replaceAll(",", "")),
  );

async function openQueue(page: Page, service: Service, query = "type=vendor"): Promise<void> {
  await page.goto(`${service.address}/queue?${query}`);
  await expect(rowsOf(page).first()).toBeVisible();
}

test.describe("several people at one queue", () => {
  test("tell each other what they know about a group", async ({ page, scanned, browser }) => {
    const text = "اسأل المكتب أولاً. Ask Tern.";
    await scanned.signIn(page);
    await openQueue(page, scanned);
    const other = await (await browser.newContext()).newPage();
    await scanned.begin(other, "m.ashe");
    await openQueue(other, scanned);
    await page.keyboard.press("c");
    const dialog = page.getByRole("dialog", { name: /^Comments on group \d+$/ });
    await expect(dialog.getByText("Nobody has said anything yet.")).toBeVisible();
    await expect(dialog.getByRole("textbox", { name: "Comment" })).toBeFocused();
    await page.keyboard.type(text);
    await page.keyboard.press("Control+Enter");
    await expect(dialog.getByRole("listitem").filter({ hasText: text })).toContainText("c.weeks");
    await expect(dialog.getByRole("textbox", { name: "Comment" })).toHaveValue("");

    // The other one sees it without doing anything, answers, and cannot be answered for.
    await expect(rowsOf(other).first()).toContainText("1 comment");
    await expect(other.getByText(text)).toBeVisible();
    await other.getByRole("button", { name: "1 comment (c)" }).click();
    await other.getByRole("textbox", { name: "Comment" }).fill("They said the older one.");
    await other.getByRole("button", { name: /^Comment / }).click();
    await expect(dialog.getByRole("listitem").filter({ hasText: "the older one" })).toContainText("m.ashe");
    await expect(dialog.getByRole("button", { name: /^Remove/ })).toHaveCount(1);
    await dialog.getByRole("button", { name: /^Remove the comment of c.weeks/ }).click();
    await expect(dialog.getByText(text)).toBeVisible();
    await dialog.getByRole("button", { name: "Press again to remove the comment of c.weeks for good" }).click();
    await expect(dialog.getByText(text)).toHaveCount(0);
    await page.keyboard.press("Escape");

    // It is there where the records are compared, too.
    await rowsOf(page).first().getByRole("link").click();
    await expect(page.getByRole("heading", { name: /^Compare/ })).toBeVisible();
    await expect(page.getByText("They said the older one.")).toBeVisible();
    await page.keyboard.press("c");
    await expect(page.getByRole("dialog").getByText("They said the older one.")).toBeVisible();
    await page.keyboard.press("Escape");

    // And where one of the records is looked at, whoever has it open sees what is said.
    const [group] = ((await scanned.call("/api/clusters?type=vendor")) as { items: { records: { key: string }[] }[] }).items;
    await page.goto(`${scanned.address}/records/vendor/${group?.records[0]?.key}`);
    await expect(page.getByText("They said the older one.")).toBeVisible();
    await page.getByRole("button", { name: "1 comment" }).click();
    await dialog.getByRole("textbox", { name: "Comment" }).fill("Then 1001.");
    await page.keyboard.press("Control+Enter");
    await page.keyboard.press("Escape");
    await expect(page.getByRole("note").getByText("Then 1001.")).toBeVisible();
    await expect(page.getByRole("button", { name: "2 comments" })).toBeFocused();
    await other.context().close();
  });

  test("assign several groups at once, and undo it", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await openQueue(page, scanned, "type=vendor&order=age");
    const [first, second] = (
      (await scanned.call("/api/clusters?type=vendor&order=age")) as { items: { id: number }[] }
    ).items;
    await scanned.call(`/api/clusters/${second?.id}/assignment`, { user: "m.ashe" });
    for (const at of [first, second])
      await page.getByRole("checkbox", { name: `Select group ${at?.id}`, exact: true }).check();
    await page.getByRole("button", { name: "Assign (i)" }).click();
    await expect(page.getByLabel("To", { exact: true })).toBeFocused();
    await expect(page.getByLabel("To", { exact: true })).toHaveValue("c.weeks");
    await page.getByRole("dialog").getByRole("button", { name: "Assign", exact: true }).click();
    await expect(page.getByText(/^Assigned to c.weeks: /)).toBeVisible();
    await expect(page.getByText(`Cluster ${second?.id} is assigned to m.ashe.`)).toBeVisible();

    // What was refused is still selected.
    await expect(page.getByText("1 group selected")).toBeVisible();
    await page.keyboard.press("i");
    await page.getByLabel("Also those that are assigned to others").check();
    await page.getByRole("dialog").getByRole("button", { name: "Assign", exact: true }).click();
    await expect(page.getByText(/selected$/)).toHaveCount(0);
    const assignees = async () =>
      Promise.all(
        [first, second].map(
          async (at) =>
            (
              (await scanned.call(`/api/clusters/${at?.id}`)) as { cluster: { assignee: string | null } }
            ).cluster.assignee,
        ),
      );
    expect(await assignees()).toEqual(["c.weeks", "c.weeks"]);
    await page.getByRole("button", { name: /^Undo/ }).click();
    await expect.poll(assignees).toEqual(["c.weeks", "m.ashe"]);
  });

  test("sort by the heads of columns, choose them, and keep a filter as a view", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await openQueue(page, scanned);
    const head = page.getByRole("columnheader", { name: /^Amount/ });
    await head.getByRole("button").click();
    await expect(head).toHaveAttribute("aria-sort", "descending");
    await expect(page.getByLabel("Order")).toHaveValue("amount");
    await expect.poll(async () => [...(await amountsOf(page))].sort((a, b) => b - a)).toEqual(await amountsOf(page));
    await head.getByRole("button").click();
    await expect(head).toHaveAttribute("aria-sort", "ascending");
    await expect(page).toHaveURL(/order=amount&reverse=true/);
    await expect
      .poll(async () => {
        const amounts = await amountsOf(page);
        return amounts.length > 3 && amounts.every((each, at) => at === 0 || (amounts[at - 1] ?? 0) <= each);
      })
      .toBe(true);

    await expect(page.getByRole("columnheader", { name: "Related" })).toHaveCount(0);
    await page.getByRole("button", { name: "Columns" }).click();
    await page.getByRole("checkbox", { name: "Related" }).check();
    await page.keyboard.press("Escape");
    await expect(page.getByRole("columnheader", { name: "Related" })).toBeVisible();
    await page.reload();
    await expect(page.getByRole("columnheader", { name: "Related" })).toBeVisible();

    await page.getByRole("button", { name: "More filters" }).click();
    await page.getByLabel("Confidence from, in percent").fill("90");
    await page.keyboard.press("Escape");
    const chip = page.getByRole("button", { name: "Clear the filter: from 90 %" });
    await expect(chip).toBeVisible();
    await page.getByRole("button", { name: "Views" }).click();
    await page.getByRole("menuitem", { name: /^Save this/ }).click();
    await page.getByRole("textbox", { name: "Name" }).fill("Small and clear");
    await page.getByLabel("Share it with everybody").check();
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await expect(page.getByText("Saved as “Small and clear”")).toBeVisible();
    await chip.click();
    await expect(chip).toHaveCount(0);
    await expect(page).not.toHaveURL(/minScore/);
    await page.getByRole("button", { name: "Views" }).click();
    await page.getByRole("menuitem", { name: "Small and clear" }).click();
    await expect(page).toHaveURL(/minScore=90&order=amount&reverse=true/);
    await expect(chip).toBeVisible();
    await page.getByRole("button", { name: "Views" }).click();
    await page.getByRole("menuitem", { name: "Remove “Small and clear”" }).click();
    await expect(page.getByText("The view “Small and clear” is removed.")).toBeVisible();
  });
});

test.describe("what is shown", () => {
  test("stays while the service does not answer, and says since when it is old", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/history/999`);
    await page.goto(scanned.address);
    await expect(page.getByRole("heading", { name: "Groups that wait" })).toBeVisible();
    await page.route("**/api/overview", (route) =>
      route.fulfill({
        status: 503,
        json: { code: "database-busy", title: "The database is locked by another program.", status: 503 },
      }),
    );
    await scanned.call(`/api/non-duplicates`, { recordType: "vendor", a: "1050", b: "1060", reason: "" });
    await expect(page.getByText(/^Last read at/)).toBeVisible({ timeout: 20_000 });
    await expect(page.getByText("The database is locked by another program.")).toHaveCount(1);
    await expect(page.getByRole("heading", { name: "Groups that wait" })).toBeVisible();
    await page.unroute("**/api/overview");
    await page.getByRole("button", { name: "Read again" }).click();
    await expect(page.getByText(/^Last read at/)).toHaveCount(0);
  });

  test("explains its words on focus, and gives rows more room", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(scanned.address);
    await page.getByText("Certain", { exact: true }).focus();
    await expect(page.getByRole("tooltip")).toContainText("upper threshold");
    await page.goto(`${scanned.address}/records/vendor`);
    const row = page.getByRole("row").nth(1);
    await expect(row).toBeVisible();
    const before = (await row.boundingBox())?.height ?? 0;
    await page.getByRole("button", { name: "Corin Weeks" }).press("Enter");
    await page.getByRole("menuitem", { name: "Roomy rows" }).press("Enter");
    await expect.poll(async () => (await row.boundingBox())?.height ?? 0).toBeGreaterThan(before);
    await page.reload();
    await expect.poll(async () => (await row.boundingBox())?.height ?? 0).toBeGreaterThan(before);
  });

  test("offers what other records have where a value is typed", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/compare/vendor?key=1001&key=1002&show=all`);
    await page.getByRole("button", { name: "Edit the result of Currency" }).click();
    const input = page.getByLabel("New value for Currency");
    await expect(input).toBeFocused();
    const list = await input.getAttribute("list");
    const offered = () =>
      page.evaluate(
        (id) =>
          [...(document.getElementById(id ?? "")?.querySelectorAll("option") ?? [])]
            .map((each) => each.value)
            .sort(),
        list,
      );
    const known = scanned.foreign("SELECT DISTINCT currency FROM vendor ORDER BY 1").split("\n");
    await expect.poll(offered).toEqual(known);
  });
});
