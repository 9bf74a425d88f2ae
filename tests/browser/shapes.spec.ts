import { expect, type Page } from "@playwright/test";
import { Service, test as base } from "./service";

/** A world that nothing changes, whose vendors were scanned. */
const test = base.extend<object, { scanned: Service }>({
  scanned: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants to see which fixtures are used
    async ({}, use) => {
      const service = await Service.start(60);
      await service.scan("vendor");
      await use(service);
      service.stop();
    },
    { scope: "worker" },
  ],
});

const pages: [string, string, (page: Page) => Promise<void>][] = [
  [
    "queue",
    "/queue?type=vendor",
    (page) => expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeVisible(),
  ],
  [
    "compare",
    "/compare/vendor?key=1001&key=1002",
    (page) => expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled(),
  ],
  [
    "record",
    "/records/vendor/1006",
    (page) => expect(page.getByRole("tab", { name: /^Bills \(\d+\)$/ })).toBeVisible(),
  ],
  [
    "overview",
    "/",
    (page) => expect(page.getByRole("heading", { name: "Vendors by confidence" })).toBeVisible(),
  ],
  ["rules", "/rules/vendor", (page) => expect(page.getByText("records compared")).toBeVisible()],
  ["map", "/settings/map", (page) => expect(page.getByRole("heading", { name: "The map" })).toBeVisible()],
];

test.describe("the main pages look as they did", () => {
  for (const scheme of ["light", "dark"] as const)
    for (const [name, address, isThere] of pages)
      test(`${name}, ${scheme}`, async ({ page, scanned }) => {
        await page.emulateMedia({ colorScheme: scheme, reducedMotion: "reduce" });
        await scanned.begin(page);
        await page.goto(scanned.address + address);
        await isThere(page);
        await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
        await expect(page.getByText("Loading…")).toHaveCount(0);
        await expect(page).toHaveScreenshot(`${name}-${scheme}.png`);
      });
});

test.describe("a screen reader", () => {
  test("reads a comparison as a grid, and beside it what the merge does", async ({ page, scanned }) => {
    await scanned.signIn(page);
    await page.goto(`${scanned.address}/compare/vendor?key=1001&key=1002`);
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    await expect(page.getByRole("main")).toMatchAriaSnapshot(`
      - main:
        - heading "Compare 2 vendors" [level=1]
        - region "Why they look like duplicates":
          - heading "Why they look like duplicates" [level=2]
          - button "Show evidence"
        - grid "Records side by side":
          - rowgroup:
            - row /^Field Differences Result on 1001/:
              - columnheader "Field Differences":
                - combobox "Fields shown (d)"
                - combobox "Add another vendor"
              - columnheader /^Result/
              - columnheader /^Master 1001 Gannet Chandlery Ltd, Saltmarrow/
              - columnheader /^Duplicate 1002 .*Gannett Chandlery Limited, Saltmarrow/:
                - button "Make master"
          - rowgroup:
            - row "Identity":
              - columnheader "Identity"
            - row /^differs. Vendor number/:
              - rowheader /Vendor number/
              - gridcell /^V-01001/:
                - button "Edit the result of Vendor number"
              - gridcell /V-01001/ [selected]:
                - button /^Vendor number of 1001/ [pressed]
              - gridcell /V-01002/:
                - button /^Vendor number of 1002/
        - complementary "Merge":
          - heading "What the merge does" [level=2]
          - textbox "Reason"
          - button "Merge (Ctrl+Enter)"
    `);
  });

  test("reads a reversal as a dialog that says what it restores", async ({ page, scanned }) => {
    await scanned.signIn(page);
    const [master = "", duplicate = ""] = scanned.mergeable(2, 1020);
    const number = await scanned.merge(master, duplicate);
    await page.goto(`${scanned.address}/history/${number}`);
    await page.getByRole("button", { name: /^Reverse this merge/ }).click();
    const dialog = page.getByRole("dialog");
    await expect(dialog.getByRole("button", { name: "Reverse merge" })).toBeEnabled();
    await expect(dialog).toMatchAriaSnapshot(`
      - dialog /^Reverse merge \\d+$/:
        - banner:
          - heading /^Reverse merge \\d+$/ [level=2]
          - button "Close"
        - paragraph: /Everything will be restored exactly/
        - heading "Values to be restored" [level=2]
        - table "Values to be restored":
          - rowgroup:
            - row "Record Field Is now To be restored to"
        - heading "Related records that move back" [level=2]
        - table "Related records that move back":
          - rowgroup:
            - row "Rows To Count Moved by the merge"
        - textbox "Reason"
        - button "Cancel"
        - button "Reverse merge"
    `);
    await page.keyboard.press("Escape");
  });
});
