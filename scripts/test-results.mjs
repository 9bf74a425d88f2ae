// Reads what a test runner left in a file: prints its counts (passed, failed, skipped), then a line for each failure.
import { readFileSync } from "node:fs";

const report = JSON.parse(readFileSync(process.argv[2], "utf8"));
const shapes = [
  // xunit.net, in the Common Test Report Format.
  [
    (r) => r.results?.summary,
    (r) => [r.results.summary.passed, r.results.summary.failed, r.results.summary.skipped + r.results.summary.pending],
    (r) => r.results.tests.filter((test) => test.status === "failed").map((test) => [test.name, test.message]),
  ],
  // Vitest.
  [
    (r) => r.testResults,
    (r) => [r.numPassedTests, r.numFailedTests, r.numPendingTests],
    (r) =>
      r.testResults
        .flatMap((file) => file.assertionResults)
        .filter((test) => test.status === "failed")
        .map((test) => [test.fullName, test.failureMessages[0]]),
  ],
  // Playwright: a test that passed only when it was tried again has failed.
  [
    (r) => r.stats,
    (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky, r.stats.skipped],
    (r) => r.suites.flatMap(specs).filter((spec) => !spec.ok).map((spec) => [spec.title, failure(spec)]),
  ],
];

function specs(suite) {
  return [...(suite.specs ?? []), ...(suite.suites ?? []).flatMap(specs)];
}

function failure(spec) {
  return spec.tests.flatMap((test) => test.results).find((result) => result.error)?.error.message;
}

const [, counts, failures] = shapes.find(([fits]) => fits(report));
console.log(counts(report).join(" "));
for (const [name, message] of failures(report)) {
  // The first lines say what was wrong; colours and the rest are in the runner's own output.
  const said = (message ?? "").replaceAll(/\x1b\[[0-9;]*m/g, "").split("\n").filter((line) => line.trim() !== "");
  console.log(`${name}\n${said.slice(0, 6).map((line) => `    ${line.slice(0, 300)}`).join("\n")}`);
}
