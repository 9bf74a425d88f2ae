import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import type { Plan } from "../api/client";
import { RelatedRows } from "../records/RelatedRows";

/** The related rows themselves, record by record, without leaving the comparison. */
export function RowsBeside({
  plan,
  opened,
  open,
}: {
  plan: Plan;
  /** The reference whose rows are shown; empty for none. */
  opened: string;
  open: (reference: string) => void;
}) {
  const withRows = plan.moves.filter((move) => move.counts.some((count) => count > 0));
  const shown = withRows.find((move) => move.reference === opened);
  if (withRows.length === 0) return null;
  return (
    <section className="panel" style={{ marginBottom: 12 }} aria-label={t`Related records side by side`}>
      <header>
        <h2>
          <Trans>Related records side by side</Trans>
        </h2>
        {withRows.map((move) => (
          <Button
            key={move.reference}
            size="compact-sm"
            variant="default"
            aria-pressed={move === shown}
            onClick={() => open(move === shown ? "" : move.reference)}
          >
            {move === shown ? t`Close` : t`Open`} {move.title.toLowerCase()}
          </Button>
        ))}
      </header>
      {shown && (
        <div className="columns even body">
          {plan.records.map((record, at) => (
            <div key={record.key}>
              <h3 className="muted" dir="auto">
                {record.key} {record.label}
              </h3>
              {(shown.counts[at] ?? 0) > 0 ? (
                <RelatedRows
                  key={shown.reference}
                  type={plan.recordType}
                  record={record.key}
                  reference={shown.reference}
                />
              ) : (
                <span className="muted">
                  <Trans>none</Trans>
                </span>
              )}
            </div>
          ))}
        </div>
      )}
    </section>
  );
}
