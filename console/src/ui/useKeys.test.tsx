import { fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { switchSingleKeys, useKeys } from "./useKeys";

function Page({ keys }: { keys: Record<string, () => void> }) {
  useKeys(keys);
  return (
    <>
      <input aria-label="search" />
      <input aria-label="tick" type="checkbox" />
      <select aria-label="state">
        <option>Open</option>
        <option>Postponed</option>
      </select>
    </>
  );
}

describe("useKeys", () => {
  it("hears single keys, keys with Ctrl, and one key after the other", () => {
    const keys = { x: vi.fn(), "Ctrl+Enter": vi.fn(), "g h": vi.fn() };
    render(<Page keys={keys} />);
    fireEvent.keyDown(document.body, { key: "x" });
    fireEvent.keyDown(document.body, { key: "Enter", ctrlKey: true });
    fireEvent.keyDown(document.body, { key: "g" });
    fireEvent.keyDown(document.body, { key: "h" });
    expect(keys.x).toHaveBeenCalledOnce();
    expect(keys["Ctrl+Enter"]).toHaveBeenCalledOnce();
    expect(keys["g h"]).toHaveBeenCalledOnce();
  });

  it("lets the second of two keys mean nothing else, wherever it is known", () => {
    const shell = { "g o": vi.fn() };
    const page = { o: vi.fn() };
    function Both() {
      useKeys(shell);
      useKeys(page);
      return null;
    }
    render(<Both />);
    fireEvent.keyDown(document.body, { key: "g" });
    fireEvent.keyDown(document.body, { key: "o" });
    expect(shell["g o"]).toHaveBeenCalledOnce();
    expect(page.o).not.toHaveBeenCalled();
    fireEvent.keyDown(document.body, { key: "o" });
    expect(page.o).toHaveBeenCalledOnce();

    // After 'g' a key that goes nowhere does nothing at all.
    fireEvent.keyDown(document.body, { key: "g" });
    fireEvent.keyDown(document.body, { key: "x" });
    fireEvent.keyDown(document.body, { key: "o" });
    expect(page.o).toHaveBeenCalledTimes(2);
  });

  it("means the innermost of two that know a key", () => {
    const outer = { j: vi.fn() };
    const inner = { j: vi.fn() };
    function Both() {
      useKeys(outer);
      useKeys(inner);
      return null;
    }
    render(<Both />);
    fireEvent.keyDown(document.body, { key: "j" });
    expect(inner.j).toHaveBeenCalledOnce();
    expect(outer.j).not.toHaveBeenCalled();
  });

  it("hears a key after a box was ticked by mouse", () => {
    const keys = { c: vi.fn() };
    render(<Page keys={keys} />);
    fireEvent.keyDown(screen.getByLabelText("tick"), { key: "c" });
    expect(keys.c).toHaveBeenCalledOnce();
  });

  it("leaves a select the letters that its options begin with, and the keys that move in it", () => {
    const keys = { o: vi.fn(), x: vi.fn(), ArrowDown: vi.fn() };
    render(<Page keys={keys} />);
    const state = screen.getByLabelText("state");
    for (const key of ["o", "ArrowDown", "x"]) fireEvent.keyDown(state, { key });
    expect(keys.o).not.toHaveBeenCalled();
    expect(keys.ArrowDown).not.toHaveBeenCalled();
    expect(keys.x).toHaveBeenCalledOnce();
  });

  it("hears no single character once these are switched off, but all others", () => {
    const keys = { x: vi.fn(), "g h": vi.fn(), "Ctrl+k": vi.fn(), ArrowDown: vi.fn() };
    render(<Page keys={keys} />);
    switchSingleKeys(false);
    for (const key of ["x", "g", "h", "ArrowDown"]) fireEvent.keyDown(document.body, { key });
    fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
    switchSingleKeys(true);
    expect(keys.x).not.toHaveBeenCalled();
    expect(keys["g h"]).not.toHaveBeenCalled();
    expect(keys["Ctrl+k"]).toHaveBeenCalledOnce();
    expect(keys.ArrowDown).toHaveBeenCalledOnce();
    fireEvent.keyDown(document.body, { key: "x" });
    expect(keys.x).toHaveBeenCalledOnce();
  });

  it("lets be what somebody types into a field", () => {
    const keys = { x: vi.fn(), "Ctrl+Enter": vi.fn() };
    render(<Page keys={keys} />);
    const search = screen.getByLabelText("search");
    fireEvent.keyDown(search, { key: "x" });
    fireEvent.keyDown(search, { key: "Enter", ctrlKey: true });
    expect(keys.x).not.toHaveBeenCalled();
    expect(keys["Ctrl+Enter"]).toHaveBeenCalledOnce();
  });
});
