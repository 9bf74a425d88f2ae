import { useEffect, useRef } from "react";

/** A key and what it does; `g v` is one key after the other. */
export type Keys = Record<string, (event: KeyboardEvent) => void>;

/** Inputs that take no text: a key pressed there is meant for the page. */
const textless = ["checkbox", "radio", "button", "submit"];

function isTyping(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !textless.includes(target.type);
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["TEXTAREA", "SELECT"].includes(target.tagName))
  );
}

/** Listens to keys while the component is there. Keys without Ctrl are let be while somebody types or a dialog is open. */
export function useKeys(keys: Keys, active = true) {
  const current = useRef(keys);
  current.current = keys;
  useEffect(() => {
    if (!active) return;
    let before = "";
    let timer = 0;
    const listen = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.altKey || event.metaKey) return;
      const inDialog =
        document.querySelector("[role=dialog]") !== null &&
        !(event.target instanceof Element && event.target.closest("[role=dialog]") === null && event.ctrlKey);
      if (!event.ctrlKey && (isTyping(event.target) || inDialog)) return;
      const key = (event.ctrlKey ? "Ctrl+" : "") + event.key;
      const action = current.current[`${before} ${key}`] ?? current.current[key];
      window.clearTimeout(timer);
      before = key;
      timer = window.setTimeout(() => {
        before = "";
      }, 1200);
      if (action) {
        event.preventDefault();
        action(event);
      }
    };
    window.addEventListener("keydown", listen);
    return () => {
      window.removeEventListener("keydown", listen);
      window.clearTimeout(timer);
    };
  }, [active]);
}
