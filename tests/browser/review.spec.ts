import { expect, type Page } from "@playwright/test";
import { Service, test as base } from "./service";

/** A world of its own, whose vendors and accounts were scanned. */
const test = base.extend<object, { scanned: Service }>({
  scanned: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start(60);
      await service.scan("vendor", "account");
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});

const rowsOf = (page: Page) =>
  page.getByRole("table", { name: "Groups" }).getByRole("row").filter({ hasText: "%" });

const mergeIn = (page: Page) => page.getByRole("button", { name: "Merge (Ctrl+Enter)" });

test.describe("the review", () => {
  test("merges a clear case beside the list with two keys, three with a reason", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=vendor`);
    await expect(rowsOf(page).nth(1)).toBeVisible();
    const groups = page.getByText(/^\d+ groups$/);
    const before = Number.parseInt(await groups.innerText(), 10);
    const preview = page.getByRole("region", { name: /^Group \d+$/ });
    // Some groups are blocked, and are passed.
    const nextClear = async () => {
      for (;;) {
        await page.keyboard.press("j");
        const row = rowsOf(page).filter({ has: page.locator("a:focus") });
        const name = (await row.getByRole("checkbox").getAttribute("aria-label")) ?? "";
        await expect(preview).toHaveAttribute("aria-label", `Group ${name.slice("Select group ".length)}`);
        await expect(preview.getByRole("columnheader", { name: /^Master/ })).toBeVisible();
        await expect(mergeIn(page)).not.toHaveAttribute("title", /plan\.$/);
        if (await mergeIn(page).isEnabled()) return;
      }
    };
    await nextClear();
    const shown = (await preview.getAttribute("aria-label")) ?? "";
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText(/^Merge \d+ is done/)).toBeVisible();
    await expect(page.getByText(`${before - 1} groups`)).toBeVisible();
    const state = (await scanned.call(`/api/clusters/${shown.slice("Group ".length)}`)) as {
      cluster: { state: string; rule: string };
      decision: { rule: string };
    };
    expect(state.cluster.state).toBe("merged");
    expect(state.decision.rule).toBe(state.cluster.rule);

    await nextClear();
    await page.keyboard.press("w");
    await page.keyboard.type("one firm");
    await page.keyboard.press("Control+Enter");
    await expect(page.getByText(`${before - 2} groups`)).toBeVisible();
    const history = (await scanned.call("/api/history?kind=merge&size=1")) as { items: { reason: string }[] };
    expect(history.items[0]?.reason).toBe("one firm");
  });

  test("goes with its group as keys go through the list, and reads none that is passed", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(5)).toBeVisible();
    await expect(mergeIn(page)).toBeVisible();
    const read: string[] = [];
    page.on("request", (request) => {
      const id = /\/api\/clusters\/(\d+)$/.exec(request.url())?.[1];
      if (id) read.push(id);
    });
    for (let step = 0; step < 5; step++) await page.keyboard.press("j");
    await expect(rowsOf(page).nth(5).getByRole("link")).toBeFocused();
    const name = (await rowsOf(page).nth(5).getByRole("checkbox").getAttribute("aria-label")) ?? "";
    const id = name.slice("Select group ".length);
    await expect(page.getByRole("region", { name: `Group ${id}`, exact: true })).toBeVisible();
    await expect(mergeIn(page)).toBeVisible();
    expect(read.at(-1)).toBe(id);
    expect(read.length).toBeLessThan(5);
  });

  test("selects ranges with Shift, by mouse and by key, and all there are", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).nth(5)).toBeVisible();
    await rowsOf(page).nth(1).getByRole("checkbox").click();
    await rowsOf(page).nth(4).getByRole("checkbox").click({ modifiers: ["Shift"] });
    await expect(page.getByText("4 groups selected")).toBeVisible();
    await page.keyboard.press("j");
    await page.keyboard.press("Shift+X");
    await expect(page.getByText("5 groups selected")).toBeVisible();
    await page.getByRole("button", { name: "Clear selection" }).click();
    const total = Number.parseInt(await page.getByText(/^\d+ groups$/).innerText(), 10);
    await page.getByRole("checkbox", { name: "Select all groups" }).check();
    await expect(page.getByText(`${total} groups selected`)).toBeVisible();
    await page.getByRole("checkbox", { name: "Select all groups" }).uncheck();
    await expect(page.getByText(/selected$/)).toHaveCount(0);
  });

  test("is read by a screen reader as a list, a group and what a merge does", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=vendor`);
    await expect(mergeIn(page)).toBeVisible();
    await expect(page.getByRole("main")).toMatchAriaSnapshot(`
      - heading "To review" [level=1]
      - combobox "Record type"
      - combobox "State"
      - combobox "Order"
      - button "More filters"
      - button "Views"
      - button "Columns"
      - button "Open the next (t)"
      - table "Groups":
        - rowgroup:
          - row:
            - columnheader "Select all groups":
              - checkbox "Select all groups"
            - columnheader "Confidence"
            - columnheader "Records"
            - columnheader "Amount"
        - rowgroup:
          - row /Select group \\d+ .* %/:
            - cell /Select group/
            - cell / %/
            - cell:
              - link
            - cell
      - region /Group \\d+/:
        - heading /Group \\d+/ [level=2]
        - button "Comment (c)"
        - table
        - complementary "Merge":
          - heading "What the merge does" [level=2]
          - textbox "Reason"
          - button "Merge (Ctrl+Enter)"
    `);
  });
});

test.describe("the comparison", () => {
  for (const [width, height] of [
    [1280, 800],
    [1024, 700],
  ] as const)
    test(`shows a differing field in the upper third at ${width}x${height}, and the merge beside it`, async ({
      page,
      scanned,
    }) => {
      await page.setViewportSize({ width, height });
      await scanned.signIn(page);
      await page.goto(`${scanned.address}/queue?type=vendor`);
      await expect(rowsOf(page).first()).toBeVisible();
      await page.keyboard.press("Enter");
      await expect(page.getByText("assigned to you")).toBeVisible();
      const first = page.getByRole("rowheader", { name: /^differs: / }).first();
      await expect(first).toBeVisible();
      await expect(page.getByText("Loading…")).toHaveCount(0);
      const box = await first.boundingBox();
      expect((box?.y ?? height) + 20).toBeLessThanOrEqual(height / 3);
      await expect(mergeIn(page)).toBeInViewport();
      await expect(page.getByRole("textbox", { name: "Reason" })).toBeInViewport();
      await page.mouse.wheel(0, 600);
      await expect(mergeIn(page)).toBeInViewport();
      const grid = page.getByRole("grid", { name: "Records side by side" });
      await expect(grid.getByRole("columnheader", { name: /^Master/ }).first()).toBeInViewport();
    });

  test("keeps heads and field names in sight with twelve records", async ({ page, service }) => {
    await service.signIn(page);
    const keys = Array.from({ length: 12 }, (_, at) => `key=${1010 + at}`).join("&");
    await page.goto(`${service.address}/compare/vendor?${keys}&show=all`);
    await expect(page.getByRole("columnheader", { name: /^Duplicate/ })).toHaveCount(11);
    const last = page.getByRole("columnheader", { name: /1021/ });
    await last.scrollIntoViewIfNeeded();
    await page.locator(".compare-frame").hover();
    await page.mouse.wheel(0, 500);
    await expect(last).toBeInViewport();
    await expect(page.getByRole("columnheader", { name: /^Result/ })).toBeInViewport();
    await expect(page.getByRole("rowheader", { name: /City$/ })).toBeInViewport({ ratio: 0.9 });
  });

  test("says the rule only of exceptions, and of all fields when asked", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?key=1020&key=1021&show=all`);
    const rules = page.locator(".outcome > .small").filter({ hasText: "rule: " });
    await expect(page.getByRole("button", { name: "Show all rules" })).toBeVisible();
    const few = await rules.count();
    await page.getByRole("button", { name: "Show all rules" }).click();
    await expect.poll(() => rules.count()).toBeGreaterThan(few);
    await page.reload();
    await expect.poll(() => rules.count()).toBeGreaterThan(few);
    await page.getByRole("button", { name: "Only exceptions" }).click();
    await expect.poll(() => rules.count()).toBe(few);
  });
});

test.describe("around every page", () => {
  test("is a side bar that folds, is remembered, and says its names either way", async ({ page, scanned }) => {
    await scanned.signIn(page);
    const main = page.getByRole("navigation", { name: "Main" });
    const names = ["Overview", "To review", "Records", "History", "Rules", "Settings"];
    for (const name of names) await expect(main.getByRole("link", { name, exact: true })).toBeVisible();
    await expect(main.getByText("Overview")).toBeHidden();
    await page.keyboard.press("[");
    await expect(main.getByText("Overview")).toBeVisible();
    await page.reload();
    await expect(main.getByText("Overview")).toBeVisible();
    for (const name of names) await expect(main.getByRole("link", { name, exact: true })).toBeVisible();
    await page.getByRole("button", { name: "Close the side bar ([)" }).click();
    await expect(main.getByText("Overview")).toBeHidden();
  });

  test("is the way to the records that were looked at last, and from one type to another", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.getByRole("combobox", { name: "Record type" }).selectOption("Contacts");
    await expect(page.getByRole("heading", { name: "Contacts", level: 1 })).toBeVisible();
    await page.getByRole("link", { name: "History", exact: true }).click();
    await page.getByRole("link", { name: "Records", exact: true }).click();
    await expect(page.getByRole("heading", { name: "Contacts", level: 1 })).toBeVisible();
  });

  test("is a finder of what can be done on the page, which does it", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(rowsOf(page).first()).toBeVisible();
    await page.keyboard.press("Control+k");
    const found = page.getByRole("listbox", { name: "Found" }).getByRole("option");
    await page.getByRole("combobox", { name: "Find anything" }).fill("postpone the");
    await expect(found.first()).toContainText("action, o");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("dialog", { name: "Postpone" })).toBeVisible();
    await expect(page.getByRole("dialog").getByLabel("Reason")).toBeFocused();
    await page.keyboard.press("Escape");

    // What belongs to another page is not there.
    await page.getByRole("link", { name: "History", exact: true }).click();
    await expect(page.getByRole("heading", { name: "History", level: 1 })).toBeVisible();
    await page.keyboard.press("Control+k");
    await page.getByRole("combobox", { name: "Find anything" }).fill("postpone the");
    await expect(page.getByText("No matches.")).toBeVisible();
  });

  test("says why a button cannot be pressed, to those who press it and to those who read it", async ({
    page,
    scanned,
  }) => {
    await scanned.signIn(page, "h.trewin");
    await page.goto(`${scanned.address}/queue?type=account`);
    await expect(mergeIn(page)).toBeDisabled();
    await expect(mergeIn(page)).toHaveAttribute("aria-description", "Your role has read-only access.");
    await mergeIn(page).focus();
    await expect(mergeIn(page)).toBeFocused();
    await page.keyboard.press("Control+Enter");
    await expect(page.getByRole("status").getByText("Not merged. Your role has read-only access.")).toBeVisible();
  });
});

test("decides one group after another, however quickly the keys follow", async ({ page }) => {
  const service = await Service.start(60);
  try {
    await service.scan("account");
    await service.signIn(page);
    await page.goto(`${service.address}/queue?type=account`);
    await expect(rowsOf(page).nth(4)).toBeVisible();
    const listed = (await service.call("/api/clusters?type=account")) as { items: { id: number }[] };
    for (let decision = 0; decision < 4; decision++) {
      await page.keyboard.press("a");
      await page.keyboard.press("Enter");
      await page.getByText(/^Marked as not duplicates: /).waitFor();
      await page.getByRole("button", { name: "Close this notice" }).press("Enter");
    }
    const decided = (await service.call("/api/clusters?type=account&state=non-duplicates")) as {
      items: { id: number }[];
    };
    expect(decided.items.map((each) => each.id).sort()).toEqual(
      listed.items
        .slice(0, 4)
        .map((each) => each.id)
        .sort(),
    );
  } finally {
    service.stop();
  }
});
