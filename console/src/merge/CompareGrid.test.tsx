import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { api, Refused } from "../api/client";
import { planOf, show, typeOf } from "../test-plan";
import { CompareGrid } from "./CompareGrid";
import type { Shown } from "./choices";

vi.spyOn(api, "fieldChoices").mockResolvedValue({ isClosed: false, values: [] });

function setUp(changes: { show?: Shown; typeIn?: () => Promise<void>; keys?: string[] } = {}) {
  const actions = {
    show: vi.fn(),
    addRecord: vi.fn(),
    choose: vi.fn(),
    make: vi.fn(),
    typeIn: vi.fn(changes.typeIn ?? (() => Promise.resolve())),
    backToRule: vi.fn(),
    makeMaster: vi.fn(),
    leaveOut: vi.fn(),
  };
  const comparison = {
    keys: changes.keys ?? ["1", "2"],
    master: "1",
    choices: {},
    show: changes.show ?? ("differences" as const),
    exclude: [],
    end: [],
    reopen: false,
    linked: [],
    rows: "",
    cluster: null,
    queue: "",
  };
  show(<CompareGrid type={typeOf()} plan={planOf()} comparison={comparison} isOld={false} {...actions} />);
  return actions;
}

describe("the comparison", () => {
  it("shows what differs, and everything when asked", () => {
    setUp();
    expect(screen.queryByRole("rowheader", { name: "City" })).toBeNull();
    expect(screen.getByRole("rowheader", { name: "differs: Phone" })).toBeTruthy();
  });

  it("shows fields that are the same too when asked for all", () => {
    setUp({ show: "all" });
    expect(screen.getByRole("rowheader", { name: "City" })).toBeTruthy();
  });

  it("marks the value that stays for those who do not see colours", () => {
    setUp();
    expect(
      screen.getByRole("button", { name: "Phone of 1: 01632 960118" }).getAttribute("aria-pressed"),
    ).toBe("true");
    expect(screen.getByRole("button", { name: "E-mail of 1: blank" }).getAttribute("aria-pressed")).toBe(
      "false",
    );
    expect(
      screen.getByText("from 2, rule: the master's value unless blank; fills the master's blank"),
    ).toBeTruthy();
  });

  it("keeps the columns where they are when another record is the master", () => {
    setUp({ keys: ["2", "1"] });
    const heads = screen.getAllByRole("columnheader").map((head) => head.textContent ?? "");
    expect(heads.findIndex((head) => head.startsWith("Duplicate"))).toBeLessThan(
      heads.findIndex((head) => head.startsWith("Master")),
    );
  });

  it("is walked through with arrow keys, and a value is taken with Enter", async () => {
    const { choose } = setUp();
    const user = userEvent.setup();
    expect(document.activeElement?.getAttribute("aria-label")).toBe("Phone of 1: 01632 960118");
    await user.keyboard("{ArrowDown}{ArrowRight}{ArrowRight}");
    expect(document.activeElement?.getAttribute("aria-label")).toBe("E-mail of 2: a@b.example");
    await user.keyboard("{Enter}");
    expect(choose).toHaveBeenCalledWith("email", "2");
  });

  it("takes the value of a record by its digit, and goes on to the next field", async () => {
    const { choose } = setUp();
    const user = userEvent.setup();
    await user.keyboard("2");
    expect(choose).toHaveBeenLastCalledWith("phone", "2");
    expect(document.activeElement?.getAttribute("aria-label")).toBe("E-mail of 1: blank");
    await user.keyboard("13");
    expect(choose).toHaveBeenLastCalledWith("email", "1");
    expect(choose).toHaveBeenCalledTimes(2);
  });

  it("has a key for the rule and one for the master", async () => {
    const { backToRule, makeMaster } = setUp();
    const user = userEvent.setup();
    await user.keyboard("{ArrowRight}rm");
    expect(backToRule).toHaveBeenCalledWith("phone");
    expect(makeMaster).toHaveBeenCalledWith("2");
  });

  it("takes a typed value only when the service does, and says why if not", async () => {
    const problem = {
      type: "",
      title: "'x' is not a phone number.",
      status: 422,
      code: "invalid-value",
      hint: "Write it as in 01632 960118.",
      details: [],
      traceId: null,
      plan: null,
    };
    const { typeIn } = setUp({ typeIn: () => Promise.reject(new Refused(problem)) });
    const user = userEvent.setup();
    await user.keyboard("e");
    const input = await screen.findByLabelText("New value for Phone");
    await user.clear(input);
    await user.type(input, "x{Enter}");
    expect(typeIn).toHaveBeenCalledWith("phone", "x");
    expect(await screen.findByText(/is not a phone number. Write it as in/)).toBeTruthy();
    await user.keyboard("{Escape}");
    expect(screen.queryByLabelText("New value for Phone")).toBeNull();
  });

  it("lets nobody leave out one of the last two", () => {
    setUp();
    expect(screen.queryByRole("button", { name: "Leave out" })).toBeNull();
    const duplicate = screen
      .getAllByRole("columnheader")
      .find((head) => head.textContent?.includes("Duplicate"));
    expect(within(duplicate as HTMLElement).getByRole("button", { name: "Make master" })).toBeTruthy();
  });
});
