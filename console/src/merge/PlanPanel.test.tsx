import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { fieldOf, planOf, show } from "../test-plan";
import { PlanPanel, planInShort, RelatedMoves } from "./PlanPanel";

describe("what will happen", () => {
  it("says how many rows move, from where and worth how much", () => {
    show(<PlanPanel plan={planOf()} />);
    expect(screen.getByRole("row", { name: "Bills bill move to the master 6 8 95,001.60" })).toBeTruthy();
    expect(screen.queryByRole("row", { name: /Notes/ })).toBeNull();
    expect(screen.getByRole("row", { name: "Billed 10.00 + 20.50 30.50" })).toBeTruthy();
    expect(screen.getByText("No value of the master is overwritten.")).toBeTruthy();
  });

  it("counts what adds nothing to a total, where many records have it", () => {
    const plan = planOf();
    const billed = plan.figures.find((each) => each.control);
    if (!billed) throw new Error("there is no control total");
    const before = ["10.00", ...Array.from({ length: 300 }, () => "0.00"), "20.50"];
    show(<PlanPanel plan={{ ...plan, figures: [{ ...billed, before, after: "30.50" }] }} />);
    expect(screen.getByRole("row", { name: "Billed 10.00 + 20.50 + 300 × 0.00 30.50" })).toBeTruthy();
  });

  it("lists every value of the master that is overwritten", () => {
    const fields = [
      fieldOf({ value: "+44 1632 960118", from: 1, changes: true }),
      fieldOf({ name: "fax", title: "Fax", value: null, from: null, changes: true }),
    ];
    show(<PlanPanel plan={planOf({ fields })} />);
    expect(screen.getByText(/^Phone:/).textContent).toBe("Phone: 01632 960118 becomes +44 1632 960118");
    expect(screen.getByText(/^Fax:/).textContent).toBe("Fax: 01632 960118 becomes blank");
  });

  it("says of rows that collide which one is kept, with what, and which are removed", () => {
    const plan = planOf();
    const [bills, notes] = plan.moves;
    const collision = {
      values: "number = B1",
      kept: "100",
      removed: [{ key: "200", values: {} }],
      changes: { amount: "10.30" },
      dependentsMoved: 2,
    };
    if (bills && notes)
      show(<PlanPanel plan={{ ...plan, moves: [{ ...bills, collisions: [collision] }, notes] }} />);
    expect(screen.getByRole("list", { name: "Conflicts" }).textContent).toBe(
      "Bills: 100 is kept, amount '10.30'; 200 is removed as a repeat (number = B1 must be unique). 2 records below it move too.",
    );
  });

  it("lets rows be left with the retired records only where the map allows it, and never afterwards", () => {
    const plan = planOf();
    const moves = plan.moves.map((move) => ({ ...move, mayExclude: move.reference === "bills" }));
    const change = vi.fn();
    const view = show(<RelatedMoves plan={{ ...plan, moves }} exclude={{ chosen: [], change }} />);
    fireEvent.click(screen.getByRole("checkbox", { name: "leave bills with the retired" }));
    expect(change).toHaveBeenCalledWith("bills", true);
    view.unmount();
    show(<PlanPanel plan={{ ...plan, moves }} done />);
    expect(screen.queryByRole("checkbox")).toBeNull();
  });

  it("speaks of the past once it is done", () => {
    show(<PlanPanel plan={planOf()} done />);
    expect(screen.getByText("moved to the master")).toBeTruthy();
  });

  it("shows in what rows that are removed differ, and does not count them as moved", () => {
    const plan = planOf();
    const moves = plan.moves.map((move) =>
      move.reference === "bills"
        ? {
            ...move,
            removed: 2,
            collisions: [
              {
                values: "number = B1",
                kept: "100",
                removed: [
                  { key: "200", values: {}, differences: [{ column: "amount", kept: "20", removed: "35" }] },
                ],
                changes: {},
                dependentsMoved: 0,
              },
            ],
          }
        : move,
    );
    show(<PlanPanel plan={{ ...plan, moves }} />);
    expect(screen.getByRole("row", { name: /^Bills bill/ }).textContent).toContain("6 (+2 removed)");
    expect(screen.getByText(/They differ/).textContent).toBe(
      "They differ: amount of 200 is 35, and 20 is kept.",
    );
    expect(planInShort({ ...plan, moves })).toBe("6 related records move and 1 value changes on the master");
  });

  it("is said in one sentence too", () => {
    expect(planInShort(planOf())).toBe("8 related records move and 1 value changes on the master");
    expect(planInShort(planOf({ fields: [], moves: [] }))).toBe(
      "0 related records move and 0 values change on the master",
    );
  });
});
