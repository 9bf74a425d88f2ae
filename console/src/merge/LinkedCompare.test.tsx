import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Offer } from "../api/client";
import { planOf, show } from "../test-plan";
import { LinkedCompare } from "./LinkedCompare";

const offer = {
  recordType: "vendor",
  title: "Vendors",
  records: [{ key: "1" }, { key: "2" }],
  suggestion: { key: "1" },
} as Offer;

describe("the small comparison", () => {
  it("shows what differs, and takes a value where the merge is chosen", () => {
    const choose = vi.fn();
    show(<LinkedCompare offer={offer} planned={planOf()} choose={choose} />);
    expect(screen.queryByText("City")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Phone of 2: +44 1632 960118" }));
    expect(choose).toHaveBeenCalledWith("phone", "2");
  });

  it("says why nothing can be chosen yet", () => {
    show(<LinkedCompare offer={offer} planned={planOf()} />);
    const value = screen.getByRole("button", { name: "E-mail of 1: blank" });
    expect((value as HTMLButtonElement).disabled).toBe(true);
    expect(value.title).toBe("Include the merge to choose its values.");
  });

  it("says that all is the same", () => {
    show(<LinkedCompare offer={offer} planned={planOf({ fields: [] })} />);
    expect(screen.getByText("All fields are the same.")).toBeTruthy();
  });
});
