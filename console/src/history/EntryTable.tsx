import { Link } from "react-router";
import type { EntrySummary } from "../api/client";
import { moment } from "../ui/format";

const kinds: Record<string, string> = {
  merge: "Merge",
  reversal: "Reversal",
  "non-duplicates": "Not duplicates",
  reopened: "Reopened",
};

/** The kind of an entry, for people. */
export function kindInWords(kind: string): string {
  return kinds[kind] ?? kind;
}

/** What an entry tells of, in a few words. */
export function entryInWords(entry: EntrySummary): string {
  const [master, ...duplicates] = entry.records;
  const keys = entry.records.map((record) => record.key).join(", ");
  switch (entry.kind) {
    case "merge":
      return `${duplicates.map((record) => record.key).join(", ")} into ${master?.key} ${master?.label}`;
    case "reversal":
      if (entry.only)
        return `Merge ${entry.reverses} into ${master?.key} ${master?.label} reversed for ${entry.only} only`;
      return `Merge ${entry.reverses} into ${master?.key} ${master?.label} reversed`;
    case "non-duplicates":
      return `${keys} marked as not duplicates`;
    default:
      return `${keys} reopened`;
  }
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
              <td>
                {kindInWords(entry.kind)} <span className="muted">{entry.recordType}</span>
              </td>
              <td>
                <Link to={`/history/${entry.number}`}>{entryInWords(entry)}</Link>
              </td>
              <td className="number">{entry.rows}</td>
              <td>{entry.actor}</td>
              <td>
                <span className="clip">{entry.reason}</span>
              </td>
              <td>
                {entry.kind === "merge" &&
                  (entry.reversedBy ? `Reversed by ${entry.reversedBy}` : "In effect")}
                {entry.kind === "non-duplicates" && (
                  <Link to={`/history/${entry.number}?reopen=true`}>Reopen</Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
