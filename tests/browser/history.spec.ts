import { readFileSync } from "node:fs";
import { expect } from "@playwright/test";
import { Service, test } from "./service";

test.describe("the history", () => {
  test("says what is in effect, shows a reversal in the words of the map, and checks itself", async ({
    page,
  }) => {
    // One of its own, for it alters the history.
    const service = await Service.start(60);
    await service.signIn(page);
    const pair = { recordType: "vendor", a: "1030", b: "1031", reason: "two firms" };
    await service.call("/api/non-duplicates", pair);
    await page.goto(`${service.address}/history?kind=non-duplicates`);
    const decision = page.getByRole("row", { name: /1030, 1031 marked as not duplicates/ });
    await expect(page.getByRole("rowheader", { name: /1 entry$/ })).toBeVisible();
    await decision.getByRole("link", { name: "Reopen" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("Reason").fill("one firm after all");
    await dialog.getByRole("button", { name: /^Reopen/ }).click();
    await expect(page.getByText("Reopened: the records are proposed as duplicates again")).toBeVisible();
    await page.goto(`${service.address}/history?kind=non-duplicates`);
    await expect(decision.getByText("Reopened")).toBeVisible();
    await expect(decision.getByRole("link", { name: "Reopen" })).toHaveCount(0);

    const [master = "", duplicate = ""] = service.mergeable(2, 1031);
    const merge = await service.merge(master, duplicate);
    await page.goto(`${service.address}/history/${merge}`);
    await page.getByRole("button", { name: "Reverse this merge…" }).click();
    const restored = dialog.getByRole("table").first();
    await expect(restored.getByRole("columnheader", { name: "Field" })).toBeVisible();
    await expect(restored.getByRole("cell", { name: "Status", exact: true })).toBeVisible();
    await expect(restored.getByRole("cell", { name: "status", exact: true })).toHaveCount(0);
    await page.keyboard.press("Escape");

    await page.goto(`${service.address}/history`);
    await page.getByRole("button", { name: "Check the history" }).click();
    await expect(page.getByRole("status")).toContainText("No changes were detected: 3 entries were checked.");
    service.foreign(
      "DROP TRIGGER kettlefog_history_is_not_changed; UPDATE kettlefog_history SET reason = 'altered' WHERE number = 1",
    );
    await page.getByRole("button", { name: "Check the history" }).click();
    await expect(page.getByRole("alert")).toContainText("The history was altered:");
    service.stop();
  });

  test("saves checkpoints and proofs, and is checked against a checkpoint", async ({ page }) => {
    const service = await Service.start(60);
    await service.signIn(page);
    const pair = { recordType: "vendor", a: "1030", b: "1031", reason: "two firms" };
    await service.call("/api/non-duplicates", pair);
    await page.goto(`${service.address}/history`);
    const saved = async (button: string) => {
      const download = page.waitForEvent("download");
      await page.getByRole("button", { name: button }).click();
      return readFileSync(await (await download).path(), "utf8");
    };
    const checkpoint = await saved("Save a checkpoint");
    expect(checkpoint.split("\n")[1]).toBe("1");
    await expect(page.getByRole("status")).toContainText("The checkpoint is saved.");
    const given = (text: string) =>
      page
        .getByLabel("File of a checkpoint")
        .setInputFiles({ name: "kept.txt", mimeType: "text/plain", buffer: Buffer.from(text) });
    const [master = "", duplicate = ""] = service.mergeable(2, 1031);
    await service.merge(master, duplicate);
    await given(`an earlier one\n\n${checkpoint}\n`);
    await expect(page.getByText("2 entries were checked.")).toContainText(
      /begins with the 1 entry of the checkpoint of .*, which this service signed/,
    );
    await given("x".repeat(1_000_000));
    await expect(page.getByText("This is no checkpoint of a history.")).toBeVisible();

    await page.goto(`${service.address}/history/2`);
    const proof = JSON.parse(await saved("Save a proof"));
    expect(proof.entry.number).toBe(2);
    expect(proof.checkpoint.split("\n")[1]).toBe("2");
    await expect(page.getByText("The proof is saved.")).toBeVisible();

    await page.goto(`${service.address}/history`);
    service.foreign(
      "DROP TRIGGER kettlefog_history_is_not_removed; PRAGMA foreign_keys = OFF; DELETE FROM kettlefog_history",
    );
    await given(checkpoint);
    await expect(page.getByRole("alert")).toContainText(
      "The checkpoint has 1 entry, and the history only 0: some were removed at the end.",
    );
    await page.getByRole("button", { name: "Save a checkpoint" }).click();
    await expect(page.getByText("The history has fewer entries than at its last checkpoint")).toBeVisible();
    service.stop();
  });
});
