import { useEffect } from "react";

/**
 * Keeps the focus when what had it goes away, as a button does that did its work: what was around it gets the focus, so
 * that whoever works by keyboard goes on from there and not from the top of the page.
 */
export function useFocusKept() {
  useEffect(() => {
    let around: HTMLElement[] = [];
    const remember = (event: FocusEvent) => {
      around = [];
      for (let each = event.target as HTMLElement | null; each; each = each.parentElement) around.push(each);
    };
    const watcher = new MutationObserver(() => {
      if (document.activeElement !== document.body || around.length === 0 || around[0]?.isConnected) return;
      const left = around.find((each) => each.isConnected && each !== document.body);
      around = [];
      if (!left || left === document.documentElement) return;
      left.tabIndex = -1;
      left.focus({ preventScroll: true });
    });
    document.addEventListener("focusin", remember);
    watcher.observe(document.body, { childList: true, subtree: true });
    return () => {
      document.removeEventListener("focusin", remember);
      watcher.disconnect();
    };
  }, []);
}
