import { useEffect, useRef } from "react";
import { useLocation } from "react-router";

/** How long a page may take to have a heading, in milliseconds. */
const patience = 10_000;

/**
 * Makes a change of page known: the title of the window follows the page's heading, and the heading takes the focus, so
 * that screen readers say it, unless the page gives the focus to something else.
 */
export function usePage(program: string) {
  const { pathname } = useLocation();
  const before = useRef(pathname);
  useEffect(() => {
    const main = document.querySelector("main");
    if (!main) return;
    const from = document.activeElement;
    let waits = before.current !== pathname;
    before.current = pathname;
    const look = () => {
      const heading = main.querySelector("h1");
      if (!heading) return;
      const title = `${heading.textContent} – ${program}`;
      if (document.title !== title) document.title = title;
      if (!waits) return;
      waits = false;
      // What has the focus by now was given it by the page, or by whoever reads it.
      if (document.activeElement !== from && document.activeElement !== document.body) return;
      if (document.querySelector("[role=dialog]")) return;
      heading.tabIndex = -1;
      heading.focus({ preventScroll: true });
    };
    const watcher = new MutationObserver(look);
    watcher.observe(main, { childList: true, subtree: true, characterData: true });
    const timer = window.setTimeout(() => {
      waits = false;
    }, patience);
    look();
    return () => {
      watcher.disconnect();
      window.clearTimeout(timer);
    };
  }, [pathname, program]);
}
