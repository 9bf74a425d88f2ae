import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { fieldOf, show } from "../test-plan";
import { FieldEditor } from "./FieldEditor";

function setUp(
  changes: Parameters<typeof fieldOf>[0],
  maxLength: number | null = null,
  allowed: string[] | null = null,
) {
  const save = vi.fn(() => Promise.resolve());
  const field = fieldOf({ title: "It", ...changes });
  show(<FieldEditor field={field} maxLength={maxLength} allowed={allowed} save={save} cancel={() => {}} />);
  const input = screen.getByLabelText("New value for It");
  const take = async (text: string) => {
    fireEvent.change(input, { target: { value: text } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(save).toHaveBeenCalled());
    return save.mock.lastCall as unknown as [string];
  };
  return { input, take };
}

describe("the editor of a field", () => {
  it("fits the kind", () => {
    expect(setUp({ kind: "birth-date", value: "1971-04-09" }).input.getAttribute("type")).toBe("date");
  });

  it("offers yes, no and blank for a flag", async () => {
    const { input, take } = setUp({ kind: "flag", value: "1" });
    expect([...(input as HTMLSelectElement).options].map((option) => option.text)).toEqual([
      "blank",
      "yes",
      "no",
    ]);
    expect(await take("0")).toEqual(["0"]);
  });

  it("offers what the database allows, and what a record has already", async () => {
    const { input, take } = setUp({ value: "old", values: ["active", "old"] }, null, ["active", "dormant"]);
    expect([...(input as HTMLSelectElement).options].map((option) => option.text)).toEqual([
      "blank",
      "active",
      "dormant",
      "old",
    ]);
    expect((input as HTMLSelectElement).value).toBe("old");
    expect(await take("dormant")).toEqual(["dormant"]);
  });

  it("edits a set one member a line, and writes it in its own form", async () => {
    const { input, take } = setUp({ rule: "union", value: "red; green", values: ["red; green", "blue"] });
    expect((input as HTMLTextAreaElement).value).toBe("red\ngreen");
    expect(await take("red\n\n blue ")).toEqual(["red; blue"]);
  });

  it("proposes the values of the records, and says how long a text may be", () => {
    const { input } = setUp({ kind: "code", values: ["SHT", "BYD"], value: "SHT" }, 8);
    expect(input.getAttribute("maxlength")).toBe("8");
    const list = document.getElementById(input.getAttribute("list") ?? "");
    expect([...(list?.querySelectorAll("option") ?? [])].map((option) => option.value)).toEqual([
      "SHT",
      "BYD",
    ]);
  });

  it("keeps the lines of a text that has some", () => {
    expect(setUp({ kind: "text", value: "one\ntwo" }).input.tagName).toBe("TEXTAREA");
  });
});
