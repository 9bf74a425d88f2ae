import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { test } from "./service";

test.describe("a rule", () => {
  test("is tried while it is changed, its threshold dragged, saved with a note, and taken back", async ({
    page,
    service,
  }) => {
    await service.signIn(page, "m.ashe");
    await page.keyboard.press("g");
    await page.keyboard.press("l");
    await expect(page.getByRole("heading", { name: "Rules for vendors" })).toBeVisible();
    const found = page.getByRole("region", { name: "What it would find" });
    await expect(found.getByText(/records compared/)).toBeVisible();
    const clusters = () => found.locator("dd").nth(1).innerText();
    const trial = (await service.call("/api/match-rules/vendor/trials", {
      body: "review: 50\nautomatic: 99\n",
    })) as { levels: { percent: number; clusters: number }[] };
    const clustersFrom = (percent: number) =>
      String(trial.levels.find((level) => level.percent === percent)?.clusters);
    expect(await clusters()).toBe(clustersFrom(50));

    // The line stands between the bars that it divides.
    const middle = async (text: string) => {
      const drawn = await found.getByText(text, { exact: true }).first().boundingBox();
      return drawn ? drawn.x + drawn.width / 2 : Number.NaN;
    };
    const between = ((await middle("45")) + (await middle("50"))) / 2;
    expect(Math.abs((await middle("review 50 %")) - between)).toBeLessThan(2);

    // The line is dragged by mouse, and moved by keys; the counts follow at once.
    const line = page.getByRole("slider", { name: "Review from, on the scale" });
    const box = await line.boundingBox();
    if (!box) throw new Error("the line is not drawn");
    const at = (percent: number) => box.x + 10 + ((percent - 20) / 80) * (box.width - 20);
    await page.mouse.move(at(50), box.y + 50);
    await page.mouse.down();
    await page.mouse.move(at(85), box.y + 50, { steps: 6 });
    await page.mouse.up();
    await expect(found.getByText(/^review 8[456] %$/)).toBeVisible();
    await line.focus();
    await page.keyboard.press("End");
    await expect(found.getByText("review 99 %")).toBeVisible();
    await expect.poll(clusters).toBe(clustersFrom(99));
    await expect(page.getByRole("textbox", { name: "Review from, in percent" })).toHaveValue("99");

    // What is not saved survives a reload.
    await page.getByRole("button", { name: "Add condition" }).click();
    await page.getByLabel("Field").selectOption("tax_number");
    await page.getByLabel("How values of Tax number compare").selectOption("is:same-digits");
    await page.reload();
    await expect(page.getByText("not saved")).toBeVisible();
    await expect(page.getByLabel("How values of Tax number compare")).toHaveValue("is:same-digits");
    await page.getByText("The rule as text").click();
    await expect(page.getByRole("textbox", { name: "The rule as text" })).toHaveValue(
      /field: tax_number, is: same-digits/,
    );
    await page.getByRole("textbox", { name: "Note" }).fill("agreed with audit");
    await page.keyboard.press("Control+s");
    await expect(page.getByText("Saved “ready” as version 1.")).toBeVisible();
    await expect(page.getByRole("table", { name: "Versions" })).toContainText("agreed with audit");
    await page.getByRole("button", { name: "Undo (u)" }).click();
    await expect(page.getByText("Undone.")).toBeVisible();
    await expect(page.getByRole("table", { name: "Versions" })).toContainText("undoes version 1");
    await expect(page.getByText("No conditions.")).toBeVisible();
    await page.getByRole("button", { name: "Load version 1" }).click();
    await expect(page.getByLabel("How values of Tax number compare")).toHaveValue("is:same-digits");
    await page.getByRole("button", { name: "Discard changes" }).click();
    await expect(page.getByText("No conditions.")).toBeVisible();
  });

  test("that is new stands beside the built-in one, unless that is switched off", async ({ page, service }) => {
    const inForce = async () =>
      ((await service.call("/api/match-rules/household")) as { name: string }[]).map((rule) => rule.name);
    await service.signIn(page, "m.ashe");
    await page.goto(`${service.address}/rules/household`);
    await expect(page.getByRole("button", { name: "Switch off" })).toBeDisabled();
    await page.getByRole("tab", { name: "New rule" }).click();
    await page.getByLabel("Name").fill("strict");
    await page.getByText("The rule as text").click();
    await page.getByRole("textbox", { name: "The rule as text" }).fill("review: 99\nautomatic: 100\n");
    const found = page.getByRole("region", { name: "What it would find" });
    await expect(found.getByText(/records compared/)).toBeVisible();
    await expect(found.getByText("no longer found")).toHaveCount(0);
    await page.keyboard.press("Control+s");
    await expect(page.getByText("The next scan uses it beside the other rules.")).toBeVisible();
    expect(await inForce()).toEqual(["ready", "strict"]);

    await page.getByRole("tab", { name: /^Ready rule/ }).click();
    await page.getByRole("button", { name: "Switch off" }).click();
    await expect(page.getByText("Switched off “ready”.")).toBeVisible();
    expect(await inForce()).toEqual(["strict"]);
    await page.getByRole("tab", { name: "New rule" }).click();
    await page.getByRole("button", { name: "Switch the built-in rule on" }).click();
    await expect(page.getByText("The built-in rule is on.")).toBeVisible();
    expect(await inForce()).toEqual(["ready", "strict"]);
    // A second click that is as quick as can be is on the rule that was clicked, not on the one shown before.
    const shown = await page.getByRole("tab", { name: /^strict/i }).evaluate(async (tab: HTMLElement) => {
      tab.click();
      await Promise.resolve();
      return [tab.ariaSelected, document.querySelector('[aria-label="The rule"] h2')?.textContent];
    });
    expect(shown).toEqual(["true", "Strict"]);
    await page.getByRole("button", { name: "Remove" }).click();
    await expect(page.getByText("Removed “strict”.")).toBeVisible();
  });

  test("is beside what decisions taught, where the next pair to decide is decided", async ({ page, service }) => {
    await service.scan("contact");
    await service.signIn(page);
    await page.goto(`${service.address}/rules/contact`);
    await page.getByRole("tab", { name: "What was learned" }).click();
    const learning = (await service.call("/api/match-rules/contact/learning")) as {
      toDecide: { a: string; b: string; labelA: string }[];
    };
    const next = page.getByRole("region", { name: "What to decide next" });
    await expect(next.getByRole("row")).toHaveCount(learning.toDecide.length);
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
    const [first] = learning.toDecide;
    if (!first) throw new Error("there is nothing to decide");
    await next.getByRole("link").first().click();
    await expect(page.getByRole("heading", { name: "Compare 2 contacts" })).toBeVisible();
    await page.goBack();
    await expect(page.getByRole("tab", { name: "What was learned" })).toHaveAttribute("aria-selected", "true");

    await next
      .getByRole("button", { name: `Mark ${first.a} and ${first.b} as not duplicates`, exact: true })
      .click();
    await page.getByRole("textbox", { name: "Reason" }).fill("two people");
    await page.keyboard.press("Enter");
    await expect(page.getByText(/Marked as not duplicates: .+ \| /)).toBeVisible();
    await expect(next.getByRole("row")).toHaveCount(learning.toDecide.length - 1);
    await page.getByRole("button", { name: "Undo (u)" }).click();
    await expect(next.getByRole("row")).toHaveCount(learning.toDecide.length);
  });

  test("that is wrong says what and where, and a pair is explained", async ({ page, service }) => {
    await service.signIn(page);
    await page.goto(`${service.address}/rules/vendor?rule=`);
    await page.getByText("The rule as text").click();
    await page
      .getByRole("textbox", { name: "The rule as text" })
      .fill("any_of: [[{ field: fax, is: exact }]]");
    await expect(page.getByRole("alert")).toContainText("The record type has no field 'fax'.");
    await page.getByRole("textbox", { name: "The rule as text" }).fill("any_of: [[");
    await expect(page.getByText("The text cannot be read:")).toBeVisible();
    await expect(page.getByRole("button", { name: "Save as a new version (Ctrl+S)" })).toBeDisabled();
    await expect(page.getByText("Only administrators can save rules; you can try them.")).toBeVisible();

    await page.getByRole("textbox", { name: "Key of one record" }).fill("1001");
    await page.getByRole("textbox", { name: "Key of the other record" }).fill("1002");
    await page.keyboard.press("Enter");
    await expect(page.getByText("proposed by “ready”")).toBeVisible();
    await page.getByRole("textbox", { name: "Key of the other record" }).fill("1010");
    await page.keyboard.press("Enter");
    await expect(page.getByText("not proposed")).toBeVisible();
    await page.getByRole("textbox", { name: "Key of the other record" }).fill("4711");
    await page.keyboard.press("Enter");
    await expect(page.getByText("no vendor with the key 4711")).toBeVisible();
  });
});
