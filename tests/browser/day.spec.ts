import { expect } from "@playwright/test";
import { test } from "./service";

test.describe("an operator's job", () => {
  test("is done by keyboard alone: find, compare, merge, look, take back", async ({ page, service }) => {
    await service.signIn(page);
    await page.keyboard.press("/");
    await page.keyboard.type("name:gann*");
    await page.waitForURL(/q=name/);
    await expect(page.locator("tbody tr").last()).toContainText("Gannet");
    await expect(page.locator(".panel[aria-busy=false]")).toBeVisible();
    await page.keyboard.press("Escape");
    await page.keyboard.press("x");
    await page.keyboard.press("j");
    await page.keyboard.press("x");
    await expect(page.getByText("2 records selected")).toBeVisible();
    await page.keyboard.press("c");
    await expect(page.getByRole("heading", { name: "Compare 2 vendors" })).toBeVisible();

    // The first value has the focus: one right is the duplicate's.
    await expect(page.getByRole("button", { name: "Vendor number of 1001: V-01001" })).toBeFocused();
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("ArrowRight");
    await expect(page.getByRole("button", { name: "Name of 1002: Gannett Chandlery Limited" })).toBeFocused();
    await page.keyboard.press("Enter");
    await expect(page.getByText("from 1002, your choice; replaces the master's")).toBeVisible();
    await page.keyboard.press("e");
    await page.keyboard.press("Control+a");
    await page.keyboard.type("Gannet Chandlery & Stores");
    await page.keyboard.press("Enter");
    await expect(page.getByText("typed in; replaces the master's")).toBeVisible();
    await page.reload();
    await expect(page.getByText("Gannet Chandlery & Stores").first()).toBeVisible();

    await page.keyboard.press("Control+Enter");
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
    const number = Number(/\d+/.exec(await page.getByRole("status").innerText())?.[0]);
    await expect(page.getByRole("heading", { name: "Gannet Chandlery & Stores, Saltmarrow" })).toBeVisible();
    await expect(page.getByRole("tab", { name: /^Bills \(\d+\)$/ })).toBeVisible();

    await page.keyboard.press("g");
    await page.keyboard.press("h");
    await page
      .getByRole("link", { name: "1002 into 1001 Gannet Chandlery Ltd, Saltmarrow" })
      .first()
      .press("Enter");
    await expect(page.getByRole("heading", { name: `Merge ${number}` })).toBeVisible();
    await expect(page.getByRole("cell", { name: "Gannett Chandlery Limited" })).toBeVisible();
    await page.getByRole("button", { name: "Reverse this merge" }).press("Enter");
    await expect(page.getByText("Everything will be restored exactly")).toBeVisible();
    await page.getByRole("textbox", { name: "Reason" }).fill("two firms after all");
    await page.getByRole("button", { name: "Reverse merge" }).press("Enter");
    await expect(page.getByRole("heading", { name: `Reversal ${number + 1}` })).toBeVisible();
    const record = (await service.call("/api/records/vendor/1001")) as { values: { name: string } };
    expect(record.values.name).toBe("Gannet Chandlery Ltd");
    await page.goto(`${service.address}/records/vendor?q=name:gann*`);
    await expect(page.getByRole("link", { name: "1002" })).toBeVisible();
  });

  test("is done by mouse with three records, another master, and one left out", async ({ page, service }) => {
    await service.signIn(page);
    for (const label of [
      "Brackwater Marine Fuels, Brackwater",
      "BRACKWATER MARINE FUELS LTD, Brackwater",
      "Brackwater Marin Fuels, Brackwater",
    ])
      await page.getByRole("checkbox", { name: `Select ${label}`, exact: true }).check();
    await page.keyboard.press("c");
    await page
      .getByRole("columnheader", { name: /1004/ })
      .getByRole("button", { name: "Make master" })
      .click();
    await expect(
      page.getByRole("columnheader", { name: /1004/ }).getByText("Master", { exact: true }),
    ).toBeVisible();
    await page.getByRole("columnheader", { name: /1005/ }).getByRole("button", { name: "Leave out" }).click();
    await expect(page.getByRole("heading", { name: "Compare 2 vendors" })).toBeVisible();
    await page.getByRole("combobox", { name: /Fields shown/ }).selectOption("all");
    await expect(page.getByRole("rowheader", { name: "Category" })).toBeVisible();
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
    await page.getByRole("link", { name: "Open the merge" }).click();
    await expect(page.getByText("All values before the merge")).toBeVisible();
    await page.goto(`${service.address}/records/vendor/1003`);
    await expect(page.getByText("Merged into").first()).toBeVisible();
    await page.getByRole("link", { name: "1004", exact: true }).click();
    await expect(page.getByText("Old keys that lead here: 1003")).toBeVisible();
  });
});

test.describe("what else turns out to be double", () => {
  test("is merged along, to any depth, and taken back with it", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/account?key=1&key=2`);
    await expect(page.getByRole("heading", { name: "Related duplicates, merged in the same step" })).toBeVisible();
    await page.getByRole("checkbox", { name: /^Contacts: 1 Rhoda Marrick and 2/ }).click();
    await expect(page.getByRole("checkbox", { name: /^Households: 1 Marrick family/ })).toBeVisible();
    await page.getByRole("checkbox", { name: /^Households: 1 Marrick family/ }).click();
    await expect(page.getByText("2 merges included, in the same transaction")).toBeVisible();
    const vessels = page.getByRole("checkbox", { name: /^Vessels: .*SM40217K/ });
    await vessels.focus();
    await page.keyboard.press("Space");
    await expect(page.getByText("3 merges included, in the same transaction")).toBeVisible();
    await page.reload();
    await expect(page.getByText("3 merges included, in the same transaction")).toBeVisible();

    // Without the contacts nobody would ask for their households.
    await page.getByRole("checkbox", { name: /^Contacts: 1 Rhoda Marrick and 2/ }).click();
    await expect(page.getByText("1 merge included, in the same transaction")).toBeVisible();
    await expect(page.getByRole("checkbox", { name: /^Households/ })).toHaveCount(0);
    await page.getByRole("checkbox", { name: /^Contacts: 1 Rhoda Marrick and 2/ }).click();
    await expect(page.getByRole("checkbox", { name: /^Households/ })).toBeVisible();
    const contactMaster = page.getByLabel(/^Master of contacts/);
    await contactMaster.selectOption("2");
    // The list shows the choice once the page is drawn with it; until then the plan is the one before.
    await expect(contactMaster).toHaveValue("2");
    await expect(page.getByText(/^\d+ related records? moves?, .* and 2 linked merges are included\.$/)).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    await page.keyboard.press("Control+Enter");
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
    const number = Number(/\d+/.exec(await page.getByRole("status").innerText())?.[0]);
    expect(service.foreign("SELECT status FROM contact WHERE contact_id = 1")).toBe("merged");

    await page.goto(`${service.address}/history/${number}`);
    await page.getByRole("link", { name: `merge ${number - 1}` }).click();
    await page.getByRole("link", { name: `merge ${number}`, exact: true }).click();
    await page.getByRole("button", { name: "Reverse this merge" }).click();
    await expect(page.getByRole("heading", { name: `Merge ${number - 2}` })).toBeVisible();
    await page.getByRole("button", { name: "Reverse merge", exact: true }).click();
    await expect(page.getByRole("heading", { name: `Reversal ${number + 1}` })).toBeVisible();
    expect(
      service.foreign(
        "SELECT COUNT(*) FROM contact c JOIN account a ON c.status = 'merged' OR a.status = 'merged'",
      ),
    ).toBe("0");
  });
});

test.describe("what can go wrong", () => {
  test("a plan made stale by somebody else is renewed in one step, with the choices kept", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?key=1001&key=1002`);
    await page.getByRole("button", { name: "E-mail of 1002: orders@gannet-chandler.example" }).click();
    await expect(page.getByText("from 1002, your choice")).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    await service.merge("1002", "1005");
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText("Records changed while you worked.")).toBeVisible();
    await expect(page.getByRole("alert").getByText("Bills: a related row was added")).toBeVisible();
    await expect(page.getByText("from 1002, your choice")).toBeVisible();
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
  });

  test("what drifted since a merge is taken back too when ticked, and one record comes out of a merge of several", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    const [elsewhere, master = "", ...duplicates] = service.mergeable(4, 1020);
    const merge = await service.merge(master, ...duplicates);
    const bill = service.foreign(
      "SELECT MAX(key_1) FROM kettlefog_journal_row r JOIN kettlefog_journal_step s USING (journal, step) WHERE s.reference = 'bills' AND journal = (SELECT journal FROM kettlefog_history WHERE number = " +
        merge +
        ")",
    );
    const owner = service.foreign(
      `SELECT before FROM kettlefog_journal_cell c JOIN kettlefog_journal_row r USING (journal, step) JOIN kettlefog_journal_step s USING (journal, step) WHERE s.reference = 'bills' AND r.key_1 = ${bill} AND journal = (SELECT journal FROM kettlefog_history WHERE number = ${merge})`,
    );
    service.foreign(`UPDATE vendor_bill SET vendor_id = ${elsewhere} WHERE bill_id = ${bill}`);
    await page.goto(`${service.address}/history/${merge}`);
    await page.getByRole("button", { name: "Reverse this merge" }).click();
    await expect(
      page.getByText(`Bills ${bill} refers to another record now, and is left there.`),
    ).toBeVisible();
    await page.getByLabel("What to reverse").selectOption(owner);
    await page.getByRole("checkbox", { name: `Undo it too: it is moved back to ${owner}` }).check();
    await expect(page.getByText(`and is undone: it is moved back to ${owner}.`)).toBeVisible();
    await page.getByRole("button", { name: "Reverse merge", exact: true }).click();
    await expect(page.getByRole("heading", { name: /Reversal \d+/ })).toBeVisible();
    expect(service.foreign(`SELECT vendor_id FROM vendor_bill WHERE bill_id = ${bill}`)).toBe(owner);
    await page.goto(`${service.address}/history`);
    await expect(page.getByText(new RegExp(`Merge ${merge} into .* reversed for ${owner} only`)).first()).toBeVisible();
  });

  test("a collision and a difference that must not be block the merge and say how to clear it", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?key=1006&key=1007`);
    await expect(page.getByText(/Bills \d+ and \d+ cannot both belong to the master/)).toBeVisible();
    await expect(page.getByText("void or renumber it")).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();
    await expect(page.getByText("Blocked; see above.")).toBeVisible();
    await page.goto(`${service.address}/compare/vendor?key=1008&key=1009`);
    await expect(page.getByText("Currency must agree")).toBeVisible();
  });

  test("what blocks is cleared by a button, shown, and taken back with the merge", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    service.foreign("UPDATE berth_agreement SET ends_on = '2024-01-01' WHERE account_id IN (3, 4)");
    service.foreign(
      "INSERT INTO berth_agreement (agreement_id, account_id, berth, begins_on, yearly_fee) VALUES (990001, 3, 'A1', '2025-01-01', 900), (990002, 4, 'A2', '2025-01-01', 950)",
    );
    service.foreign("UPDATE account SET legal_entity = 'SHT' WHERE account_id IN (3, 4)");
    await page.goto(`${service.address}/compare/account?key=3&key=4`);
    await expect(
      page.getByText(
        "Only one record may have running berth agreements, but 3 has 1, 4 has 1.",
      ),
    ).toBeVisible();
    await page.getByRole("button", { name: "End running berth agreements of the duplicates" }).click();
    await expect(page.getByText("Running berth agreements 990002 of 4 ends with the merge.")).toBeVisible();
    await page.getByRole("button", { name: "End nothing" }).click();
    await page.getByRole("button", { name: "End running berth agreements of the duplicates" }).click();
    await expect(page.getByText("Running berth agreements 990002 of 4 ends with the merge.")).toBeVisible();
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeEnabled();
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).click();
    await expect(page.getByText(/Merge \d+ is done/)).toBeVisible();
    expect(
      service.foreign("SELECT ends_on = date('now') FROM berth_agreement WHERE agreement_id = 990002"),
    ).toBe("1");
    await page.getByRole("link", { name: "Open the merge" }).click();
    await expect(page.getByText("Running berth agreements 990002 of 4 ended with the merge.")).toBeVisible();
    await page.getByRole("button", { name: "Reverse this merge" }).click();
    await page.getByRole("button", { name: "Reverse merge", exact: true }).click();
    await expect(page.getByRole("heading", { name: /Reversal \d+/ })).toBeVisible();
    expect(service.foreign("SELECT ends_on IS NULL FROM berth_agreement WHERE agreement_id = 990002")).toBe(
      "1",
    );
  });

  test("a value of the wrong kind is refused where it is typed", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/compare/vendor?key=1006&key=1007&show=all`);
    await page.getByRole("button", { name: "Edit the result of E-mail" }).click();
    await page.getByLabel("New value for E-mail").fill("nobody at home");
    await page.keyboard.press("Enter");
    await expect(page.getByText("'nobody at home' is not an e-mail address")).toBeVisible();
    await page.keyboard.press("Escape");
    await expect(page.getByLabel("New value for E-mail")).toBeHidden();
  });

  test("nothing found, nothing compared, no such record and no such page are said plainly", async ({
    page,
    service,
  }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/records/vendor?q=nobody+has+this`);
    await expect(page.getByText("No vendors found")).toBeVisible();
    await page.goto(`${service.address}/compare/vendor?key=1006`);
    await expect(page.getByText("Nothing to compare yet")).toBeVisible();
    await page.goto(`${service.address}/records/vendor/4711`);
    await expect(page.getByText("There is no vendor with the key 4711.")).toBeVisible();
    await page.goto(`${service.address}/shoes`);
    await expect(page.getByText("There is no such page")).toBeVisible();
    await page.goto(`${service.address}/records/vendor?q=%22open`);
    await expect(page.getByText("A quote in the search is not closed.")).toBeVisible();
  });

  test("a viewer sees everything and is told why the button is grey", async ({ page, service }) => {
    await service.signIn(page, "h.trewin");
    await page.goto(`${service.address}/compare/vendor?key=1010&key=1012`);
    await expect(page.getByRole("button", { name: "Merge (Ctrl+Enter)" })).toBeDisabled();
    await expect(page.getByText(/Your role has read-only access|Blocked; see above/)).toBeVisible();
  });

  test("a session that ended leads to the sign-in and back", async ({ page, context, service }) => {
    await service.signIn(page);
    await context.clearCookies();
    await page.goto(`${service.address}/history`);
    await expect(page.getByRole("heading", { name: "Sign in to Kettlefog" })).toBeVisible();
    await page.getByLabel("User").fill("c.weeks");
    await page.getByRole("textbox", { name: "Password" }).fill("wrong");
    await page.getByRole("button", { name: "Sign in" }).click();
    await expect(page.getByText("The name or the password is wrong.")).toBeVisible();
  });

  test("a lost service is said, and found again", async ({ page, service }) => {
    await service.signIn(page);
    const port = new URL(service.address).port;
    service.kill();
    await page.getByRole("textbox", { name: "Search vendors" }).fill("gannet");
    await expect(page.getByText("The service cannot be reached.")).toBeVisible({ timeout: 30_000 });
    await service.serve(port);
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(page.getByRole("link", { name: /^Gannet/ }).first()).toBeVisible();
  });
});
