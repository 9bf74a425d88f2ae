import { useEffect, useRef } from "react";
import { flushSync } from "react-dom";
import { type ActionOf, type KeyUse, keyMap, type Scope } from "./keyMap";

/** What an action does; without an event it was chosen by its name. */
type Act = (event?: KeyboardEvent) => void;

/** What a part of the console does by the actions that its keys have. */
export type Actions<S extends Scope> = Partial<Record<ActionOf<S>, Act>>;

/** An action that works at present. */
export interface ActionNow {
  scope: Scope;
  action: string;
  use: KeyUse;
  act: () => void;
}

/** Inputs that take no text: a key pressed there is meant for the page. */
const textless = ["checkbox", "radio", "button", "submit"];

const isMac = /Mac|iP(hone|ad)/.test(globalThis.navigator?.platform ?? "");

/** How long the first of two keys waits for the second, in milliseconds. */
const patience = 1200;

interface Listener {
  scope: Scope;
  actions: Record<string, Act | undefined>;
}

/** All that listens at present, the innermost last: a key means one thing, whoever else knows it. */
const listeners: { current: Listener }[] = [];

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

/** The actions that work at present, the innermost first; of two with a key in common only the inner one. */
export function actionsNow(): ActionNow[] {
  const taken = new Set<string>();
  const found: ActionNow[] = [];
  for (const { current } of [...listeners].reverse())
    for (const [action, act] of Object.entries(current.actions)) {
      const use = (keyMap[current.scope] as Record<string, KeyUse>)[action];
      if (!use || !act || use.keys.some((key) => taken.has(key))) continue;
      for (const key of use.keys) taken.add(key);
      found.push({ scope: current.scope, action, use, act: () => act() });
    }
  return found;
}

function actionOf(key: string): Act | undefined {
  for (const { current } of [...listeners].reverse())
    for (const [action, act] of Object.entries(current.actions))
      if (act && (keyMap[current.scope] as Record<string, KeyUse>)[action]?.keys.includes(key)) return act;
  return undefined;
}

const begins = (key: string) =>
  listeners.some(({ current }) =>
    Object.keys(current.actions).some((action) =>
      (keyMap[current.scope] as Record<string, KeyUse>)[action]?.keys.some((each) =>
        each.startsWith(`${key} `),
      ),
    ),
  );

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
  const act = before ? actionOf(`${before} ${key}`) : actionOf(key);
  if (!before && begins(key)) {
    first = key;
    timer = window.setTimeout(() => {
      first = "";
    }, patience);
  }
  if (!act) return;
  event.preventDefault();
  // The next key may be on its way already: it is meant for what this one leads to.
  flushSync(() => act(event));
}

/**
 * Does what the keys of a part of the console are for, while the component is there. Keys without Ctrl (or Cmd, on a
 * Mac) are let be while somebody types or a dialog is open.
 */
export function useKeys<S extends Scope>(scope: S, actions: Actions<S>, active = true) {
  const current = useRef<Listener>({ scope, actions: {} });
  current.current = { scope, actions: actions as Listener["actions"] };
  useEffect(() => {
    if (!active) return;
    if (listeners.length === 0) window.addEventListener("keydown", listen);
    listeners.push(current);
    return () => {
      listeners.splice(listeners.indexOf(current), 1);
      if (listeners.length === 0) window.removeEventListener("keydown", listen);
    };
  }, [active]);
}
