import { expect, type Page, test } from "@playwright/test";
import { Service } from "./service";
import { startWide } from "./wide";

/** In milliseconds: 50 fields of 8 records; and 60 records, or a queue of 50,000. */
const mostInteraction = 50;
const mostInteractionOfMany = 100;
const mostFirstPage = 800;
const mostQueue = 600;
const mostTenDecisions = 10_000;

const mostScript = 250_000;
const mostRequests = 4;

/** Remembers how long every interaction took until the next paint (W3C Event Timing). */
async function watch(page: Page): Promise<void> {
  await page.evaluate(() => {
    const seen: { name: string; duration: number }[] = [];
    Object.assign(window, { interactions: seen });
    const keys = new Map<number, string>();
    for (const name of ["keydown", "keyup"] as const)
      addEventListener(name, (event) => keys.set(event.timeStamp, event.key), true);
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries() as PerformanceEventTiming[])
        if ((entry as PerformanceEventTiming & { interactionId: number }).interactionId > 0)
          seen.push({
            name: `${entry.name} ${keys.get(entry.startTime) ?? ""}`.trim(),
            duration: entry.duration,
          });
    }).observe({ type: "event", durationThreshold: 16, buffered: false } as PerformanceObserverInit);
  });
}

/** The longest interaction since {@link watch}, and how many took longer than a frame. */
async function longest(page: Page): Promise<{ longest: number; name: string; noticed: number }> {
  await page.waitForTimeout(300);
  return page.evaluate(() => {
    const seen = (window as unknown as { interactions: { name: string; duration: number }[] }).interactions;
    const [first] = [...seen].sort((x, y) => y.duration - x.duration);
    return { longest: first?.duration ?? 0, name: first?.name ?? "none", noticed: seen.length };
  });
}

function say(what: string, figure: number, most: number, unit: string): void {
  console.log(
    `${what}: ${figure.toLocaleString("en-GB")} ${unit} (at most ${most.toLocaleString("en-GB")})${figure > most ? "  NOT MET" : ""}`,
  );
  expect.soft(figure, what).toBeLessThanOrEqual(most);
}

test("the floor: a key on a page with nothing but a text box", async ({ page }) => {
  await page.setContent("<input autofocus>");
  await watch(page);
  for (let step = 0; step < 20; step++) {
    await page.keyboard.press("x");
    await page.waitForTimeout(60);
  }
  const { longest: figure } = await longest(page);
  console.log(`Interaction to next paint, the floor of this machine: ${figure} ms`);
});

test("a comparison of fifty fields and eight records answers at once", async ({ page }) => {
  const service = await startWide(50);
  try {
    await service.signIn(page);
    await page.goto(
      `${service.address}/compare/party?${[1, 2, 3, 4, 5, 6, 7, 8].map((key) => `key=${key}`).join("&")}&show=all`,
    );
    await page.locator("[data-cell='49.7']").waitFor();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    await watch(page);
    await page.locator("[data-cell='0.0']").focus();
    for (let step = 0; step < 24; step++) {
      await page.keyboard.press(step % 4 === 3 ? "ArrowRight" : "ArrowDown");
      if (step % 3 === 2) await page.keyboard.press("Enter");
      await page.waitForTimeout(60);
    }
    for (let step = 0; step < 6; step++) {
      await page.keyboard.press("d");
      await page.waitForTimeout(150);
    }
    await page.locator("[data-cell='5.3']").click();
    await page.getByRole("button", { name: "Make master" }).nth(2).click();
    const { longest: figure, name, noticed } = await longest(page);
    console.log(`  ${noticed} interactions took longer than a frame, the longest was a ${name}`);
    say("Interaction to next paint, 50 fields x 8 records", figure, mostInteraction, "ms");
  } finally {
    service.stop();
  }
});

test("a comparison of sixty records answers at once, to a reason that is typed too", async ({ page }) => {
  const service = await Service.start(120);
  try {
    await service.signIn(page);
    const keys = Array.from({ length: 60 }, (_, at) => `key=${1001 + at}`).join("&");
    await page.goto(`${service.address}/compare/vendor?${keys}`);
    await page.locator("[data-cell='0.59']").waitFor();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    await watch(page);
    await page.getByRole("textbox", { name: "Reason" }).click();
    await page.keyboard.type("all of them are one firm", { delay: 30 });
    await page.keyboard.press("Escape");
    await page.locator("[data-cell='0.0']").focus();
    for (let step = 0; step < 12; step++) {
      await page.keyboard.press(step % 3 === 2 ? "ArrowRight" : "ArrowDown");
      await page.waitForTimeout(60);
    }
    await page.keyboard.press("Enter");
    const { longest: figure, name, noticed } = await longest(page);
    console.log(`  ${noticed} interactions took longer than a frame, the longest was a ${name}`);
    say("Interaction to next paint, 60 records", figure, mostInteractionOfMany, "ms");
  } finally {
    service.stop();
  }
});

test("ten decisions are made by keyboard alone, and each costs few requests", async ({ page }) => {
  const service = await Service.start(420);
  try {
    await service.scan("vendor");
    await service.signIn(page);
    await page.goto(`${service.address}/queue?type=vendor`);
    await page.getByRole("button", { name: "Merge (Ctrl+Enter)" }).waitFor();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    let requests = 0;
    page.on("request", (request) => {
      if (request.url().includes("/api/")) requests++;
    });
    const begun = Date.now();
    for (let decision = 1; decision <= 10; decision++) {
      await page.keyboard.press("a");
      await page.keyboard.press("Enter");
      await page.getByText(/^Marked as not duplicates: /).waitFor();
      await page.getByRole("button", { name: "Close this notice" }).press("Enter");
    }
    say("Ten decisions in a row by keyboard", Date.now() - begun, mostTenDecisions, "ms");
    await page.waitForTimeout(500);
    say("Requests of a decision (mean)", requests / 10, mostRequests, "requests");
  } finally {
    service.stop();
  }
});

test("a queue of fifty thousand clusters answers at once, and the first page is there in a second", async ({
  page,
  browser,
}) => {
  const service = await Service.start(420);
  try {
    await service.scan("vendor", "account", "contact", "household", "vessel");
    await service.signIn(page);
    const cookies = await page.context().cookies();
    const times: number[] = [];
    let script = 0;
    for (let run = 0; run < 5; run++) {
      const fresh = await browser.newContext();
      await fresh.addCookies(cookies);
      const first = await fresh.newPage();

      // The page's own clock, from the start of the navigation to the frame in which the numbers are there.
      await first.addInitScript(() => {
        new MutationObserver((_, observer) => {
          if (![...document.querySelectorAll("h2")].some((heading) => heading.textContent === "To review"))
            return;
          observer.disconnect();
          requestAnimationFrame(() => setTimeout(() => Object.assign(window, { there: performance.now() })));
        }).observe(document, { childList: true, subtree: true });
      });
      await first.goto(service.address, { waitUntil: "commit" });
      times.push(
        Math.round(
          (await (await first.waitForFunction(() => (window as { there?: number }).there)).jsonValue()) ?? 0,
        ),
      );
      script = await first.evaluate(() =>
        performance
          .getEntriesByType("resource")
          .filter((entry) => entry.name.endsWith(".js"))
          .reduce((sum, entry) => sum + (entry as PerformanceResourceTiming).encodedBodySize, 0),
      );
      await fresh.close();
    }
    say(
      "First page, its numbers there, nothing cached (median of 5)",
      times.sort((a, b) => a - b)[2] ?? 0,
      mostFirstPage,
      "ms",
    );
    say("Script of the first page, compressed", script, mostScript, "bytes");
    service.foreign(`
      WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 50000)
      INSERT INTO kettlefog_cluster (id, record_type, state, rule, confidence, weakest, records, related_rows, found_at, changed_at)
      SELECT 1000000 + i, 'vessel', 'open', 'ready', 0.7 + (i % 300) / 1000.0, 0.7, 2, i, '2026-01-01T00:00:00.000000Z', '2026-01-01T00:00:00.000000Z' FROM n;
      WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 50000)
      INSERT INTO kettlefog_cluster_record SELECT 1000000 + i, k.column1, 'vessel', NULL FROM n, (VALUES ('1'), ('2')) k`);
    await page.goto(`${service.address}/queue?type=vessel`);
    await expect(page.getByText(/^50,0\d\d groups$/)).toBeVisible();
    const opened: number[] = [];
    for (let run = 0; run < 5; run++) {
      await page.goto(service.address);
      await page.getByRole("heading", { name: "Last thirty days" }).waitFor();
      const begun = Date.now();
      await page.getByRole("link", { name: /^To review/ }).first().click();
      await page.getByRole("checkbox", { name: /^Select group/ }).first().waitFor();
      opened.push(Date.now() - begun);
    }
    say("Open the queue of 50,000 (median of 5)", opened.sort((a, b) => a - b)[2] ?? 0, mostQueue, "ms");
    await page.goto(`${service.address}/queue?type=vessel`);
    await expect(page.getByText(/^50,0\d\d groups$/)).toBeVisible();
    await watch(page);
    for (let step = 0; step < 40; step++) {
      await page.keyboard.press(step % 10 === 9 ? "x" : "j");
      await page.waitForTimeout(40);
    }
    await page.locator(".queue").hover();
    for (let step = 0; step < 20; step++) {
      await page.mouse.wheel(0, 20_000);
      await page.waitForTimeout(60);
    }
    await page.getByRole("checkbox").nth(6).click();
    await page.getByLabel("Order").selectOption("amount");
    await page.keyboard.press("k");
    const { longest: figure, name, noticed } = await longest(page);
    console.log(`  ${noticed} interactions took longer than a frame, the longest was a ${name}`);
    say("Interaction to next paint, a queue of 50,000", figure, mostInteractionOfMany, "ms");
  } finally {
    service.stop();
  }
});
