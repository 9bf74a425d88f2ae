import { fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { type KeyUse, keyMap, scopeTitles } from "./keyMap";
import { type Actions, actionsNow, switchSingleKeys, useKeys } from "./useKeys";

const press = (...keys: string[]) => {
  for (const key of keys) fireEvent.keyDown(document.body, { key });
};

function Page({ queue, anywhere = {} }: { queue: Actions<"queue">; anywhere?: Actions<"anywhere"> }) {
  useKeys("anywhere", anywhere);
  useKeys("queue", queue);
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

function Plan({ merge }: { merge: Actions<"merge"> }) {
  useKeys("merge", merge);
  return <input aria-label="reason" />;
}

describe("useKeys", () => {
  it("hears single keys, keys with Ctrl, and one key after the other", () => {
    const [select, merge, history] = [vi.fn(), vi.fn(), vi.fn()];
    render(<Page queue={{ select }} anywhere={{ history }} />);
    render(<Plan merge={{ merge }} />);
    press("x");
    fireEvent.keyDown(document.body, { key: "Enter", ctrlKey: true });
    press("g", "h");
    for (const act of [select, merge, history]) expect(act).toHaveBeenCalledOnce();
  });

  it("lets the second of two keys mean nothing else, wherever it is known", () => {
    const [overview, postpone] = [vi.fn(), vi.fn()];
    render(<Page queue={{ postpone }} anywhere={{ overview }} />);
    press("g", "o");
    expect(overview).toHaveBeenCalledOnce();
    expect(postpone).not.toHaveBeenCalled();
    press("o");
    expect(postpone).toHaveBeenCalledOnce();

    // After 'g' a key that goes nowhere does nothing at all.
    press("g", "x", "o");
    expect(postpone).toHaveBeenCalledTimes(2);
  });

  it("means the innermost of two that know a key, and offers no other", () => {
    const [outer, inner] = [vi.fn(), vi.fn()];
    function Both() {
      useKeys("records", { down: outer, compare: outer });
      useKeys("queue", { down: inner });
      return null;
    }
    render(<Both />);
    press("j");
    expect(inner).toHaveBeenCalledOnce();
    expect(outer).not.toHaveBeenCalled();
    expect(actionsNow().map((each) => `${each.scope} ${each.action}`)).toEqual([
      "queue down",
      "records compare",
    ]);
    actionsNow()[1]?.act();
    expect(outer).toHaveBeenCalledOnce();
  });

  it("hears a key after a box was ticked by mouse", () => {
    const select = vi.fn();
    render(<Page queue={{ select }} />);
    fireEvent.keyDown(screen.getByLabelText("tick"), { key: "x" });
    expect(select).toHaveBeenCalledOnce();
  });

  it("leaves a select the letters that its options begin with, and the keys that move in it", () => {
    const [postpone, down, select] = [vi.fn(), vi.fn(), vi.fn()];
    render(<Page queue={{ postpone, down, select }} />);
    const state = screen.getByLabelText("state");
    for (const key of ["o", "ArrowDown", "x"]) fireEvent.keyDown(state, { key });
    expect(postpone).not.toHaveBeenCalled();
    expect(down).not.toHaveBeenCalled();
    expect(select).toHaveBeenCalledOnce();
  });

  it("hears no single character once these are switched off, but all others", () => {
    const [select, history, find, down] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
    render(<Page queue={{ select, down }} anywhere={{ history, find }} />);
    switchSingleKeys(false);
    press("x", "g", "h", "ArrowDown");
    fireEvent.keyDown(document.body, { key: "k", ctrlKey: true });
    switchSingleKeys(true);
    expect(select).not.toHaveBeenCalled();
    expect(history).not.toHaveBeenCalled();
    expect(find).toHaveBeenCalledOnce();
    expect(down).toHaveBeenCalledOnce();
    press("x");
    expect(select).toHaveBeenCalledOnce();
  });

  it("lets be what somebody types into a field", () => {
    const [reason, merge] = [vi.fn(), vi.fn()];
    render(<Plan merge={{ reason, merge }} />);
    const input = screen.getByLabelText("reason");
    fireEvent.keyDown(input, { key: "w" });
    fireEvent.keyDown(input, { key: "Enter", ctrlKey: true });
    expect(reason).not.toHaveBeenCalled();
    expect(merge).toHaveBeenCalledOnce();
  });
});

describe("the map of keys", () => {
  const uses = (scope: keyof typeof keyMap) =>
    Object.entries(keyMap[scope] as Record<string, KeyUse>).map(([action, use]) => ({ action, ...use }));

  it("gives a key one meaning in a part of the console, and a first key of two none of its own", () => {
    const first = new Set(
      uses("anywhere").flatMap(({ keys }) => keys.filter((key) => key.includes(" ")).map((key) => key[0])),
    );
    for (const scope of Object.keys(scopeTitles) as (keyof typeof keyMap)[]) {
      const keys = uses(scope).flatMap((each) => each.keys);
      expect(new Set(keys).size, scope).toBe(keys.length);
      expect(
        keys.filter((key) => first.has(key)),
        scope,
      ).toEqual([]);
    }
  });

  it("says how every key is written, and what it does", () => {
    for (const scope of Object.keys(scopeTitles) as (keyof typeof keyMap)[])
      for (const { action, keys, shown, does } of uses(scope)) {
        expect(shown ?? keys[0], `${scope} ${action}`).toBeTruthy();
        expect(does, `${scope} ${action}`).toMatch(/^[A-Z]/);
      }
  });
});
