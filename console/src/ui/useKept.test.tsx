import { act, renderHook } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { useKept } from "./useKept";

describe("a text that is not saved yet", () => {
  it("is there again after a reload, each under its name, until it is forgotten", () => {
    const first = renderHook(({ name }) => useKept(name), { initialProps: { name: "reason 1" } });
    expect(first.result.current[0]).toBeNull();
    act(() => first.result.current[1]("same firm"));
    expect(first.result.current[0]).toBe("same firm");
    first.rerender({ name: "reason 2" });
    expect(first.result.current[0]).toBeNull();
    first.rerender({ name: "reason 1" });
    expect(first.result.current[0]).toBe("same firm");
    first.unmount();

    const again = renderHook(() => useKept("reason 1"));
    expect(again.result.current[0]).toBe("same firm");
    act(() => again.result.current[2]());
    expect(again.result.current[0]).toBeNull();
    again.unmount();
    expect(renderHook(() => useKept("reason 1")).result.current[0]).toBeNull();
  });
});
