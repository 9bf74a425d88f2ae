import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox } from "@mantine/core";
import type { MapView, Schemas } from "../api/client";
import { number } from "../ui/format";
import { Table } from "../ui/Table";
import { Value } from "../ui/Value";

/** What a reversal brings back, and what somebody changed since: that is left, unless chosen. */
export function ReversalSteps({
  map,
  reversal,
  done,
  choose,
}: {
  map: MapView;
  reversal: Schemas["SingleReversalView"];
  done?: boolean;
  choose?: { chosen: string[]; change: (id: string, chosen: boolean) => void };
}) {
  const fields = map.recordTypes.find((type) => type.name === reversal.recordType)?.fields ?? [];
  const titleOf = (column: string) => fields.find((field) => field.column === column)?.title ?? column;
  return (
    <div>
      {reversal.drift.length > 0 && (
        <div className="note warning">
          <strong>
            <Trans>Changed since the merge:</Trans>
          </strong>
          <ul>
            {reversal.drift.map((drift) => (
              <li key={drift.id || drift.text}>
                {drift.text}
                {choose && drift.undo !== null && (
                  <Checkbox
                    size="xs"
                    label={t`Undo it too: ${drift.undo}`}
                    checked={choose.chosen.includes(drift.id)}
                    onChange={(event) => choose.change(drift.id, event.currentTarget.checked)}
                  />
                )}
              </li>
            ))}
          </ul>
        </div>
      )}
      {reversal.removed.map((each) => (
        <p key={each} style={{ margin: "0 0 8px" }}>
          {each}
        </p>
      ))}
      <div className="columns">
        <section className="panel">
          <header>
            <h2 id="restored-values">{done ? t`Restored values` : t`Values to be restored`}</h2>
          </header>
          <Table
            labelledBy="restored-values"
            rows={reversal.cells}
            keyOf={(cell) => `${cell.record} ${cell.column}`}
            columns={[
              { head: t`Record`, cell: (cell) => cell.record },
              {
                head: t`Field`,
                cell: (cell) => <span title={cell.column}>{titleOf(cell.column)}</span>,
              },
              { head: done ? t`Was` : t`Is now`, cell: (cell) => <Value text={cell.now} clip /> },
              {
                head: done ? t`Restored to` : t`To be restored to`,
                cell: (cell) => <Value text={cell.back} clip />,
              },
            ]}
          >
            {reversal.restored.map((key) => (
              <tr key={key}>
                <td>{key}</td>
                <td colSpan={3}>
                  <Trans>the deleted record, with all of its values</Trans>
                </td>
              </tr>
            ))}
          </Table>
        </section>
        <section className="panel">
          <header>
            <h2 id="moved-back">
              {done ? t`Related records that moved back` : t`Related records that move back`}
            </h2>
          </header>
          <Table
            labelledBy="moved-back"
            rows={reversal.rows}
            keyOf={(rows) => `${rows.reference} ${rows.record}`}
            columns={[
              { head: t`Rows`, cell: (rows) => rows.title },
              { head: t`To`, cell: (rows) => rows.record },
              { head: t`Count`, kind: "number", cell: (rows) => number(rows.count) },
              { head: t`Moved by the merge`, kind: "number", cell: (rows) => number(rows.journaled) },
            ]}
          />
          {reversal.rows.length === 0 && (
            <div className="body muted">
              <Trans>The merge moved no related records.</Trans>
            </div>
          )}
        </section>
      </div>
    </div>
  );
}
