import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { api } from "../api/client";
import { fieldOf, show } from "../test-plan";
import { FieldEditor } from "./FieldEditor";

async function setUp(
  changes: Parameters<typeof fieldOf>[0],
  maxLength: number | null = null,
  choices: Awaited<ReturnType<typeof api.fieldChoices>> = { isClosed: false, values: [] },
) {
  vi.spyOn(api, "fieldChoices").mockResolvedValue(choices);
  const save = vi.fn(() => Promise.resolve());
  const field = fieldOf({ title: "It", ...changes });
  show(<FieldEditor type="vendor" field={field} maxLength={maxLength} save={save} cancel={() => {}} />);
  const input = await screen.findByLabelText("New value for It");
  const take = async (text: string) => {
    fireEvent.change(input, { target: { value: text } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(save).toHaveBeenCalled());
    return save.mock.lastCall as unknown as [string];
  };
  return { input, take };
}

describe("the editor of a field", () => {
  it("fits the kind", async () => {
    expect((await setUp({ kind: "birth-date", value: "1971-04-09" })).input.getAttribute("type")).toBe(
      "date",
    );
  });

  it("offers yes, no and blank for a flag", async () => {
    const { input, take } = await setUp({ kind: "flag", value: "1" });
    expect([...(input as HTMLSelectElement).options].map((option) => option.text)).toEqual([
      "blank",
      "yes",
      "no",
    ]);
    expect(await take("0")).toEqual(["0"]);
  });

  it("offers what the database allows, and what a record has already", async () => {
    const { input, take } = await setUp({ value: "odd", values: ["active", "old"] }, null, {
      isClosed: true,
      values: [
        { value: "active", label: null },
        { value: "dormant", label: "Nobody asks for it" },
      ],
    });
    expect([...(input as HTMLSelectElement).options].map((option) => option.text)).toEqual([
      "blank",
      "active",
      "dormant – Nobody asks for it",
      "old",
      "odd",
    ]);
    expect((input as HTMLSelectElement).value).toBe("odd");
    expect(await take("dormant")).toEqual(["dormant"]);
  });

  it("proposes what other records have, without a list that allows nothing else", async () => {
    const { input, take } = await setUp({ kind: "code", value: "a", values: ["a", null] }, null, {
      isClosed: false,
      values: [{ value: "b", label: null }],
    });
    const list = document.getElementById(input.getAttribute("list") ?? "");
    expect([...(list?.querySelectorAll("option") ?? [])].map((option) => option.value)).toEqual(["b", "a"]);
    expect(await take("c")).toEqual(["c"]);
  });

  it("edits a set one member a line, and writes it in its own form", async () => {
    const { input, take } = await setUp({
      rule: "union",
      value: "red; green",
      values: ["red; green", "blue"],
    });
    expect((input as HTMLTextAreaElement).value).toBe("red\ngreen");
    expect(await take("red\n\n blue ")).toEqual(["red; blue"]);
  });

  it("proposes the values of the records, and says how long a text may be", async () => {
    const { input } = await setUp({ kind: "code", values: ["SHT", "BYD"], value: "SHT" }, 8);
    expect(input.getAttribute("maxlength")).toBe("8");
    const list = document.getElementById(input.getAttribute("list") ?? "");
    expect([...(list?.querySelectorAll("option") ?? [])].map((option) => option.value)).toEqual([
      "SHT",
      "BYD",
    ]);
  });

  it("keeps the lines of a text that has some", async () => {
    expect((await setUp({ kind: "text", value: "one\ntwo" })).input.tagName).toBe("TEXTAREA");
  });
});
