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
          <strong>Changed since the merge:</strong>
          <ul>
            {reversal.drift.map((drift) => (
              <li key={drift.id || drift.text}>
                {drift.text}
                {choose && drift.undo !== null && (
                  <Checkbox
                    size="xs"
                    label={`Undo it too: ${drift.undo}`}
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
            <h2 id="restored-values">{done ? "Restored values" : "Values to be restored"}</h2>
          </header>
          <table className="rows" aria-labelledby="restored-values">
            <thead>
              <tr>
                <th>Record</th>
                <th>Field</th>
                <th>{done ? "Was" : "Is now"}</th>
                <th>{done ? "Restored to" : "To be restored to"}</th>
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
                  <td colSpan={3}>the deleted record, with all of its values</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section className="panel">
          <header>
            <h2 id="moved-back">
              {done ? "Related records that moved back" : "Related records that move back"}
            </h2>
          </header>
          <table className="rows" aria-labelledby="moved-back">
            <thead>
              <tr>
                <th>Rows</th>
                <th>To</th>
                <th className="number">Count</th>
                <th className="number">Moved by the merge</th>
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
            <div className="body muted">The merge moved no related records.</div>
          )}
        </section>
      </div>
    </div>
  );
}
