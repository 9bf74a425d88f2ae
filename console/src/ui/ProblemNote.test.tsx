import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { Refused } from "../api/client";
import { show } from "../test-plan";
import { ProblemNote } from "./ProblemNote";
import { Value } from "./Value";

const problem = {
  type: "urn:kettlefog:problem:plan-blocked",
  title: "The merge is blocked by 2 things.",
  status: 409,
  code: "plan-blocked",
  hint: "Leave a record out.",
  details: ["Currency must agree.", "Bills collide."],
  traceId: null,
  plan: null,
};

describe("a problem", () => {
  it("says what is wrong, each finding, and what to do", async () => {
    const retry = vi.fn();
    show(<ProblemNote error={new Refused(problem)} retry={retry} />);
    expect(screen.getByRole("alert").textContent).toContain("The merge is blocked by 2 things.");
    expect(screen.getAllByRole("listitem").map((item) => item.textContent)).toEqual(problem.details);
    expect(screen.getByText("Leave a record out.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(retry).toHaveBeenCalledOnce();
  });

  it("does not hide a mistake of the console itself", () => {
    show(<ProblemNote error={new TypeError("x is undefined")} />);
    expect(screen.getByRole("alert").textContent).toContain("The console has an error.");
    expect(screen.getByRole("alert").textContent).toContain("x is undefined");
  });
});

describe("a value", () => {
  it("says that it is blank, and shows the rest of a long one on demand", () => {
    show(
      <>
        <Value text="  " />
        <Value text={"long ".repeat(200)} />
        <Value text="short" />
      </>,
    );
    expect(screen.getByText("blank")).toBeTruthy();
    expect(screen.getByText(/^long/).getAttribute("title")).toContain("long long");
    expect(screen.getByText("short").getAttribute("title")).toBeNull();
  });
});
