import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { EntrySummary } from "../api/client";
import { show } from "../test-plan";
import { EntryTable } from "./EntryTable";

function entryOf(changes: Partial<EntrySummary>): EntrySummary {
  const record = { created: null, changed: null, source: null, owner: null };
  return {
    number: 7,
    kind: "merge",
    recordType: "vendor",
    records: [
      { key: "1001", label: "Gannet Chandlery", ...record },
      { key: "1002", label: "Gannett Chandlery", ...record },
    ],
    at: "2026-03-02T09:30:00Z",
    actor: "c.weeks",
    reason: "same firm",
    rule: "by hand",
    approvedBy: null,
    rows: 6,
    reverses: null,
    reversedBy: null,
    hash: "",
    ...changes,
  };
}

describe("entries of the history", () => {
  it.each([
    [entryOf({}), "Merge", "1002 into 1001 Gannet Chandlery", "In effect"],
    [entryOf({ reversedBy: 9 }), "Merge", "1002 into 1001 Gannet Chandlery", " Reversed by 9"],
    [
      entryOf({ kind: "reversal", reverses: 7 }),
      "Reversal",
      "Merge 7 into 1001 Gannet Chandlery reversed",
      "",
    ],
    [entryOf({ kind: "non-duplicates" }), "Not duplicates", "1001, 1002 marked as not duplicates", "Reopen"],
    [
      entryOf({ kind: "non-duplicates", isInEffect: false }),
      "Not duplicates",
      "1001, 1002 marked as not duplicates",
      " Reopened",
    ],
    [entryOf({ kind: "reopened" }), "Reopened", "1001, 1002 reopened", ""],
    [entryOf({ kind: "something-new" }), "something-new", "1001, 1002 reopened", ""],
  ])("say what was done", (entry, kind, what, state) => {
    show(<EntryTable entries={[entry]} />);
    const cells = screen.getAllByRole("cell").map((cell) => cell.textContent);
    expect(cells[0]).toBe("7");
    expect(cells[2]?.trim()).toBe(`${kind} vendor`);
    expect(cells.slice(3, 5)).toEqual([what, "6"]);
    expect(cells[7]).toBe(state);
    expect(screen.getByRole("link", { name: what }).getAttribute("href")).toBe("/history/7");
  });

  it("are put under their days", () => {
    show(
      <EntryTable
        entries={[
          entryOf({ number: 9, at: "2026-03-03T12:00:00Z" }),
          entryOf({ number: 8, at: "2026-03-02T12:30:00Z" }),
          entryOf({ number: 7, at: "2026-03-02T12:00:00Z" }),
        ]}
      />,
    );
    expect(screen.getAllByRole("rowheader").map((head) => head.textContent)).toEqual([
      "Tuesday, March 3, 2026 1 entry",
      "Monday, March 2, 2026 2 entries",
    ]);
  });
});
