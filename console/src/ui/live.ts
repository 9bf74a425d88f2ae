import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Overview, Schemas } from "../api/client";
import { refresh, refreshAll } from "./refresh";

type Said = Schemas["EventView"];

/** A connection that comes again within this time is not worth a word. */
const grace = 1_500;

/** After this time without a word the connection is taken for lost; the service says something every fifteen seconds. */
const silence = 40_000;

const again = 2_000;

/** Events that come within this time are told of together. */
const together = 30;

const everything = "everything";

/** What of the screen is to be read again after an event of a type. */
const stale: Record<string, string[]> = {
  queue: ["clusters", "cluster", "overview"],
  rules: ["rules", "rule-versions", "trial", "explanation", "overview"],
};

/** Puts how a scan stands where the overview shows it. */
function tell(queries: QueryClient, scan: Schemas["ScanView"]) {
  if (!["running", "waiting", "stopped"].includes(scan.state)) {
    void refreshAll(queries);
    return;
  }
  queries.setQueryData<Overview>(
    ["overview"],
    (overview) =>
      overview && {
        ...overview,
        scans: [...overview.scans.filter((each) => each.id !== scan.id), scan].sort((x, y) => x.id - y.id),
      },
  );
}

/**
 * Listens to what goes on, so that all that is on the screen is fresh, whoever changed it. It listens while the page is
 * seen: a browser allows few connections to one service. Tells whether the service can be reached.
 */
export function useLive(): boolean {
  const queries = useQueryClient();
  const [reached, setReached] = useState(true);

  useEffect(() => {
    let source: EventSource | null = null;
    let patience = 0;
    let watchdog = 0;
    let wasLost = false;
    const old = new Set<string>();
    let reading = 0;

    // One change is often told by several events: what they make old is read once.
    const readSoon = (keys: string[]) => {
      for (const key of keys) old.add(key);
      reading ||= window.setTimeout(() => {
        reading = 0;
        const said = [...old];
        old.clear();
        if (said.includes(everything)) void refreshAll(queries);
        else for (const key of said) void refresh(queries, { queryKey: [key] });
      }, together);
    };
    const lost = () => {
      wasLost = true;
      setReached(false);
    };
    const heard = () => {
      window.clearTimeout(patience);
      patience = 0;
      window.clearTimeout(watchdog);
      watchdog = window.setTimeout(reopen, silence);
      setReached(true);
      if (wasLost) void refreshAll(queries);
      wasLost = false;
    };
    const reopen = () => {
      close();
      open();
    };
    const close = () => {
      source?.close();
      source = null;
      window.clearTimeout(watchdog);
    };
    const open = () => {
      if (source || document.visibilityState === "hidden") return;
      const opened = new EventSource("/api/events");
      source = opened;
      opened.addEventListener("alive", heard);
      opened.addEventListener("history", () => {
        heard();
        readSoon([everything]);
      });
      for (const [type, keys] of Object.entries(stale))
        opened.addEventListener(type, () => {
          heard();
          readSoon(keys);
        });
      opened.addEventListener("scan", (event) => {
        heard();
        const { scan } = JSON.parse((event as MessageEvent<string>).data) as Said;
        if (scan) tell(queries, scan);
      });
      opened.onerror = () => {
        if (patience === 0) patience = window.setTimeout(lost, grace);
        if (opened.readyState !== EventSource.CLOSED) return;
        // The service answered and refused: the session may have ended.
        close();
        void queries.invalidateQueries({ queryKey: ["session"] });
        window.setTimeout(open, again);
      };
    };
    const seen = () => {
      if (document.visibilityState === "hidden") {
        close();
        return;
      }
      if (!source) void refreshAll(queries);
      open();
    };
    open();
    document.addEventListener("visibilitychange", seen);
    // A browser without a way to the internet may still have one to the service: only an answer tells.
    window.addEventListener("offline", reopen);
    window.addEventListener("online", reopen);
    return () => {
      close();
      window.clearTimeout(patience);
      window.clearTimeout(reading);
      document.removeEventListener("visibilitychange", seen);
      window.removeEventListener("offline", reopen);
      window.removeEventListener("online", reopen);
    };
  }, [queries]);
  return reached;
}
