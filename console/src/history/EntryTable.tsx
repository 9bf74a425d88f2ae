import { Link } from "react-router";
import type { EntrySummary } from "../api/client";
import { moment } from "../ui/format";

/** What an entry tells of, in a few words. */
export function entryInWords(entry: EntrySummary): string {
  const [master, ...duplicates] = entry.records;
  return entry.kind === "merge"
    ? `${duplicates.map((record) => record.key).join(", ")} into ${master?.key} ${master?.label}`
    : `Merge ${entry.reverses} into ${master?.key} ${master?.label} taken back`;
}

/** Entries of the history, one a row. */
export function EntryTable({ entries }: { entries: EntrySummary[] }) {
  return (
    <div className="scroll">
      <table className="rows">
        <thead>
          <tr>
            <th className="number">No.</th>
            <th>When</th>
            <th>Kind</th>
            <th>What</th>
            <th className="number">Rows</th>
            <th>Who</th>
            <th>Reason</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) => (
            <tr key={entry.number}>
              <td className="number">
                <Link to={`/history/${entry.number}`}>{entry.number}</Link>
              </td>
              <td className="short">{moment(entry.at)}</td>
              <td>{entry.kind === "merge" ? "Merge" : "Reversal"}</td>
              <td>
                <Link to={`/history/${entry.number}`}>{entryInWords(entry)}</Link>
              </td>
              <td className="number">{entry.rows}</td>
              <td>{entry.actor}</td>
              <td>
                <span className="clip">{entry.reason}</span>
              </td>
              <td>
                {entry.kind === "reversal"
                  ? ""
                  : entry.reversedBy
                    ? `taken back by ${entry.reversedBy}`
                    : "stands"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
