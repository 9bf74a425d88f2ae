import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox } from "@mantine/core";
import type { MapView, Schemas } from "../api/client";
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
          <table className="rows" aria-labelledby="restored-values">
            <thead>
              <tr>
                <th>
                  <Trans>Record</Trans>
                </th>
                <th>
                  <Trans>Field</Trans>
                </th>
                <th>{done ? t`Was` : t`Is now`}</th>
                <th>{done ? t`Restored to` : t`To be restored to`}</th>
              </tr>
            </thead>
            <tbody>
              {reversal.cells.map((cell) => (
                <tr key={`${cell.record} ${cell.column}`}>
                  <td>{cell.record}</td>
                  <td title={cell.column}>{titleOf(cell.column)}</td>
                  <td>
                    <Value text={cell.now} clip />
                  </td>
                  <td>
                    <Value text={cell.back} clip />
                  </td>
                </tr>
              ))}
              {reversal.restored.map((key) => (
                <tr key={key}>
                  <td>{key}</td>
                  <td colSpan={3}>
                    <Trans>the deleted record, with all of its values</Trans>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section className="panel">
          <header>
            <h2 id="moved-back">
              {done ? t`Related records that moved back` : t`Related records that move back`}
            </h2>
          </header>
          <table className="rows" aria-labelledby="moved-back">
            <thead>
              <tr>
                <th>
                  <Trans>Rows</Trans>
                </th>
                <th>
                  <Trans>To</Trans>
                </th>
                <th className="number">
                  <Trans>Count</Trans>
                </th>
                <th className="number">
                  <Trans>Moved by the merge</Trans>
                </th>
              </tr>
            </thead>
            <tbody>
              {reversal.rows.map((rows) => (
                <tr key={`${rows.reference} ${rows.record}`}>
                  <td>{rows.title}</td>
                  <td>{rows.record}</td>
                  <td className="number">{rows.count}</td>
                  <td className="number">{rows.journaled}</td>
                </tr>
              ))}
            </tbody>
          </table>
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
