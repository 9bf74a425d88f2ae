import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { planOf, show } from "../test-plan";
import { RecordHead } from "./RecordHead";

const head = (isMaster: boolean, suggestedFor: string[] | null, makeMaster = vi.fn()) => {
  const record = planOf().records[1];
  if (!record) throw new Error("the plan has two records");
  show(
    <table>
      <thead>
        <tr>
          <RecordHead
            record={record}
            isMaster={isMaster}
            place={0}
            figures={[]}
            suggestedFor={suggestedFor}
            makeMaster={makeMaster}
            leaveOut={null}
          />
        </tr>
      </thead>
    </table>,
  );
  return record.key;
};

describe("the head of a record", () => {
  it("says that it is the suggested master, why, and makes it the master by a click", () => {
    const makeMaster = vi.fn();
    const key = head(false, ["It has the most related rows: 7.", "It was created first: 2015."], makeMaster);
    expect(screen.getByText(/It has the most related rows: 7\. It was created first: 2015\./)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Make master (s)" }));
    expect(makeMaster).toHaveBeenCalledWith(key);
  });

  it("needs no click if it is the master", () => {
    head(true, ["It was changed last: 2024."]);
    expect(screen.getByText("Suggested master: It was changed last: 2024.")).toBeTruthy();
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("says nothing of it if another is suggested, or nothing speaks for it", () => {
    head(false, null);
    expect(screen.queryByText(/Suggested/)).toBeNull();
    expect(screen.getByRole("button", { name: "Make master" })).toBeTruthy();
  });
});
