import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { planOf, show } from "../test-plan";
import { SuggestedMaster } from "./SuggestedMaster";

describe("the suggested master", () => {
  it("is told with its reasons, and made the master by a click", () => {
    const makeMaster = vi.fn();
    const suggestion = {
      key: "2",
      reasons: ["It has the most related rows: 7.", "It was created first: 2015."],
    };
    show(<SuggestedMaster plan={planOf({ suggestion })} makeMaster={makeMaster} />);
    expect(screen.getByText("It has the most related rows: 7. It was created first: 2015.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Make 2 the master (s)" }));
    expect(makeMaster).toHaveBeenCalledWith("2");
  });

  it("needs no click if it is the master", () => {
    const suggestion = { key: "1", reasons: ["It was changed last: 2024."] };
    show(<SuggestedMaster plan={planOf({ suggestion })} makeMaster={vi.fn()} />);
    expect(screen.getByText("The suggested master:")).toBeTruthy();
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("is not told if nothing speaks for it", () => {
    show(<SuggestedMaster plan={planOf({ suggestion: { key: "2", reasons: [] } })} makeMaster={vi.fn()} />);
    expect(screen.queryByText(/master/)).toBeNull();
  });
});
