import type { ReactNode } from "react";

/** Says that there is nothing to show, and what to do about it. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      <div>{children}</div>
    </div>
  );
}
