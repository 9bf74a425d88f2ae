import { act, renderHook } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { compareAddress, useTray } from "./tray";

describe("the tray", () => {
  beforeEach(() => sessionStorage.clear());

  it("keeps what was ticked, and tells everybody who looks", () => {
    const list = renderHook(() => useTray("vendor"));
    const other = renderHook(() => useTray("vendor"));
    const elsewhere = renderHook(() => useTray("account"));
    act(() => list.result.current.toggle({ key: "1", label: "One" }));
    act(() => list.result.current.add({ key: "2", label: "Two" }));
    act(() => list.result.current.add({ key: "2", label: "Two" }));
    expect(other.result.current.picked.map((record) => record.key)).toEqual(["1", "2"]);
    expect(elsewhere.result.current.picked).toEqual([]);
    act(() => other.result.current.toggle({ key: "1", label: "One" }));
    expect(list.result.current.has("1")).toBe(false);
    act(() => list.result.current.clear());
    expect(other.result.current.picked).toEqual([]);
  });

  it("leads to the comparison", () => {
    expect(compareAddress("vendor", ["1", "a|b"])).toBe("/compare/vendor?key=1&key=a%7Cb");
  });
});
