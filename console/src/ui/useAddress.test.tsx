import { act, renderHook } from "@testing-library/react";
import { BrowserRouter, useNavigate } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import { useAddress } from "./useAddress";

const start = () => renderHook(useAddress, { wrapper: BrowserRouter });

describe("the state of a page in its address", () => {
  beforeEach(() => window.history.replaceState(null, "", "/history?page=3"));

  it("keeps a change that is followed by another before the page is drawn", () => {
    const { result } = start();
    act(() => {
      result.current.set({ type: "vendor" });
      result.current.set({ actor: "m.tilling" });
    });
    expect(window.location.search).toBe("?type=vendor&actor=m.tilling");
    expect(result.current.query.toString()).toBe("type=vendor&actor=m.tilling");
  });

  it("follows Back and links after its own changes", () => {
    const { result } = start();
    act(() => {
      result.current.set({ type: "vendor" });
      result.current.set({ type: null });
      result.current.turn(2, 9);
    });
    expect(result.current.page).toBe(3);
    act(() => {
      window.history.pushState(null, "", "/history?type=vendor");
      window.dispatchEvent(new PopStateEvent("popstate"));
    });
    expect(result.current.query.toString()).toBe("type=vendor");
  });

  it("turns pages from where the address is, and not beyond the first and the last", () => {
    const { result } = start();
    expect(result.current.page).toBe(3);
    act(() => {
      result.current.turn(1, 9);
      result.current.turn(1, 9);
    });
    expect(result.current.page).toBe(5);
    act(() => result.current.turn(1, 5));
    expect(result.current.page).toBe(5);
    act(() => result.current.turn(-9, 5));
    expect(result.current.page).toBe(1);
    act(() => result.current.turn(1, 1));
    expect(result.current.page).toBe(1);
  });

  it("writes nothing over another page that is on its way", () => {
    const { result } = renderHook(() => ({ address: useAddress(), navigate: useNavigate() }), {
      wrapper: BrowserRouter,
    });
    act(() => {
      result.current.navigate("/compare/vendor?key=1&key=2");
      result.current.address.set({ q: "gann*" });
    });
    expect(window.location.pathname + window.location.search).toBe("/compare/vendor?key=1&key=2");
  });

  it("starts at the first page when anything else is asked for", () => {
    const { result } = start();
    act(() => result.current.set({ record: "0042" }));
    expect(window.location.search).toBe("?record=0042");
    act(() => result.current.set({ record: null }));
    expect(window.location.search).toBe("");
  });
});
