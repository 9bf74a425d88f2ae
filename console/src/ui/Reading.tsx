import { Trans } from "@lingui/react/macro";
/** Stands for rows that are being read, so that the page does not jump when they come. */
export function Reading({ what, rows = 4 }: { what: string; rows?: number }) {
  return (
    <div className="panel body reading" aria-busy="true">
      <span className="visually-hidden">
        <Trans>Reading {what}…</Trans>
      </span>
      {Array.from({ length: rows }, (_, at) => (
        <span key={at} aria-hidden style={{ width: `${92 - ((at * 37) % 50)}%` }} />
      ))}
    </div>
  );
}
