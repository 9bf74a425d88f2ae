import { useEffect, useState } from "react";
import { useLocation, useSearchParams } from "react-router";

/** What the address says behind its path, and how a page changes it. */
export interface Address {
  /** What the address says, updated at once on a change, so that controlled inputs keep what is typed. */
  query: URLSearchParams;
  /** Replaces the query with one made from the current one. */
  change: (next: (now: URLSearchParams) => URLSearchParams) => void;
  /** Sets some of the query's parameters, and removes those that are empty; the list starts at its first page. */
  set: (changes: Record<string, string | null>) => void;
  /** The page of the list that is shown, from 1. */
  page: number;
  /** Goes some pages on or back, not beyond the first and the last. */
  turn: (by: number, pages: number) => void;
}

const pageOf = (query: URLSearchParams) => Math.max(1, Number(query.get("page")) || 1);

/** What was put into the address and is still to be drawn. */
interface Change {
  search: string;
  /** What the router may draw until then: what it drew before, and what was typed a letter ago. */
  until: string[];
}

/**
 * The state of a page, kept in its address. The router renders a new address in a transition. To keep a change or a
 * letter that comes before that, each change starts from the address itself and not from what was rendered. What a
 * link gave along stays.
 */
export function useAddress(): Address {
  const { pathname, search, state } = useLocation();
  const [, setQuery] = useSearchParams();
  const [own, setOwn] = useState<Change | null>(null);
  const isOwn = own !== null && search !== own.search && own.until.includes(search);
  useEffect(() => {
    // A letter may have been typed between the drawing and this.
    if (!isOwn) setOwn((now) => (now === own ? null : now));
  });
  const change: Address["change"] = (next) => {
    // Another page is on its way; what was typed here a moment ago must not call it back.
    if (new URL(pathname, window.location.origin).pathname !== window.location.pathname) return;
    const query = next(new URLSearchParams(window.location.search));
    const asked = query.size > 0 ? `?${query}` : "";
    setOwn((before) => ({ search: asked, until: [...(before?.until ?? [search]), asked] }));
    setQuery(query, { replace: true, state });
  };
  const query = new URLSearchParams(isOwn ? own.search : search);
  return {
    query,
    change,
    set: (changes) =>
      change((now) => {
        now.delete("page");
        for (const [name, value] of Object.entries(changes)) {
          if (value) now.set(name, value);
          else now.delete(name);
        }
        return now;
      }),
    page: pageOf(query),
    turn: (by, pages) =>
      change((now) => {
        const last = Math.max(pages, pageOf(now));
        now.set("page", String(Math.max(1, Math.min(last, pageOf(now) + by))));
        return now;
      }),
  };
}
