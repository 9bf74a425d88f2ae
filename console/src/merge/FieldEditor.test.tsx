import { fireEvent, screen, waitFor } from "@testing-library/react";
import { type ReactNode, useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { api, type RecordType } from "../api/client";
import { fieldOf, show, typeOf } from "../test-plan";
import { FieldEditor, useFieldLists } from "./FieldEditor";

const closedField = (name: string, isClosed: boolean) => ({
  name,
  title: name,
  kind: "code",
  group: null,
  rule: "master",
  maxLength: null,
  column: name,
  isClosed,
});

/** As in a comparison: the lists are read first, and the editor comes when it is asked for. */
function Opened({ type, children }: { type: RecordType; children: ReactNode }) {
  const [isOpen, open] = useState(false);
  useFieldLists(type);
  return isOpen ? (
    children
  ) : (
    <button type="button" onClick={() => open(true)}>
      Open
    </button>
  );
}

async function setUp(
  changes: Parameters<typeof fieldOf>[0],
  maxLength: number | null = null,
  choices: Awaited<ReturnType<typeof api.fieldChoices>> = { isClosed: false, values: [] },
) {
  const read = vi.spyOn(api, "fieldChoices").mockResolvedValue(choices);
  const save = vi.fn(() => Promise.resolve());
  const field = fieldOf({ title: "It", ...changes });
  show(
    <Opened type={{ ...typeOf(), fields: [closedField(field.name, choices.isClosed)] }}>
      <FieldEditor type="vendor" field={field} maxLength={maxLength} save={save} cancel={() => {}} />
    </Opened>,
  );
  await waitFor(() => expect(read).toHaveBeenCalledTimes(choices.isClosed ? 1 : 0));
  fireEvent.click(screen.getByRole("button", { name: "Open" }));
  const input = screen.getByLabelText("New value for It");
  if (!choices.isClosed) await waitFor(() => expect(read).toHaveBeenCalledTimes(1));
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
    const offered = () => [...(list?.querySelectorAll("option") ?? [])].map((option) => option.value);
    await waitFor(() => expect(offered()).toEqual(["b", "a"]));
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
