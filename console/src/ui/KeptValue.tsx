import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";

/** A value beside others, with a mark if it is the one that is kept. */
export function KeptValue({ isKept, children }: { isKept: boolean; children: ReactNode }) {
  if (!isKept) return children;
  return (
    <div className="kept-value">
      <span aria-hidden>●</span>
      <span className="visually-hidden">
        <Trans>kept:</Trans>{" "}
      </span>
      {children}
    </div>
  );
}
