import { fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { useKeys } from "./useKeys";

function Page({ keys }: { keys: Record<string, () => void> }) {
  useKeys(keys);
  return (
    <>
      <input aria-label="search" />
      <input aria-label="tick" type="checkbox" />
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

  it("hears a key after a box was ticked by mouse", () => {
    const keys = { c: vi.fn() };
    render(<Page keys={keys} />);
    fireEvent.keyDown(screen.getByLabelText("tick"), { key: "c" });
    expect(keys.c).toHaveBeenCalledOnce();
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
