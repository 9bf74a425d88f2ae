import { useEffect, useRef } from "react";

/** A key and what it does; `g v` is one key after the other. */
export type Keys = Record<string, (event: KeyboardEvent) => void>;

/** Inputs that take no text: a key pressed there is meant for the page. */
const textless = ["checkbox", "radio", "button", "submit"];

const isMac = /Mac|iP(hone|ad)/.test(globalThis.navigator?.platform ?? "");

/** How long the first of two keys waits for the second, in milliseconds. */
const patience = 1200;

/** All that listens at present, the innermost last: a key means one thing, whoever else knows it. */
const scopes: { current: Keys }[] = [];

let first = "";
let timer = 0;

function isTyping(target: EventTarget | null, key: string): boolean {
  if (target instanceof HTMLInputElement) return !textless.includes(target.type);
  // A letter chooses the option that begins with it; any other is meant for the page.
  if (target instanceof HTMLSelectElement)
    return (
      key.length !== 1 ||
      key === " " ||
      [...target.options].some((option) => option.text.toLowerCase().startsWith(key.toLowerCase()))
    );
  return target instanceof HTMLElement && (target.isContentEditable || target.tagName === "TEXTAREA");
}

const offKey = "kettlefog single keys off";

/** True unless keys that are a single character were switched off: voice control and slips of the hand press them. */
export const singleKeysWork = () => localStorage.getItem(offKey) === null;

/** Switches the keys that are a single character on or off, in this browser. */
export function switchSingleKeys(on: boolean) {
  if (on) localStorage.removeItem(offKey);
  else localStorage.setItem(offKey, "off");
}

function actionOf(key: string): Keys[string] | undefined {
  for (const scope of [...scopes].reverse()) if (scope.current[key]) return scope.current[key];
  return undefined;
}

const begins = (key: string) =>
  scopes.some((scope) => Object.keys(scope.current).some((each) => each.startsWith(`${key} `)));

/** The second of two keys means only what both together mean. */
function listen(event: KeyboardEvent) {
  const withControl = event.ctrlKey || (isMac && event.metaKey);
  if (event.defaultPrevented || event.altKey || (event.metaKey && !isMac)) return;
  if (["Shift", "Control", "Meta"].includes(event.key)) return;
  const inDialog =
    document.querySelector("[role=dialog]") !== null &&
    !(event.target instanceof Element && event.target.closest("[role=dialog]") === null && withControl);
  if (!withControl && (isTyping(event.target, event.key) || inDialog)) return;
  if (!withControl && event.key.length === 1 && !singleKeysWork()) return;
  const key = (withControl ? "Ctrl+" : "") + event.key;
  const before = first;
  first = "";
  window.clearTimeout(timer);
  const action = before ? actionOf(`${before} ${key}`) : actionOf(key);
  if (!before && begins(key)) {
    first = key;
    timer = window.setTimeout(() => {
      first = "";
    }, patience);
  }
  if (!action) return;
  event.preventDefault();
  action(event);
}

/**
 * Listens to keys while the component is there. Keys without Ctrl (or Cmd, on a Mac) are let be while somebody types
 * or a dialog is open.
 */
export function useKeys(keys: Keys, active = true) {
  const current = useRef(keys);
  current.current = keys;
  useEffect(() => {
    if (!active) return;
    if (scopes.length === 0) window.addEventListener("keydown", listen);
    scopes.push(current);
    return () => {
      scopes.splice(scopes.indexOf(current), 1);
      if (scopes.length === 0) window.removeEventListener("keydown", listen);
    };
  }, [active]);
}
