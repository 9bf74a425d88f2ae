import { Combine, type LucideIcon, RotateCcw, Split, Undo2 } from "lucide-react";
import { Link } from "react-router";
import type { EntrySummary } from "../api/client";
import { counted, moment, timeOfDay, weekday } from "../ui/format";

const kinds: Record<string, { text: string; icon: LucideIcon }> = {
  merge: { text: "Merge", icon: Combine },
  reversal: { text: "Reversal", icon: Undo2 },
  "non-duplicates": { text: "Not duplicates", icon: Split },
  reopened: { text: "Reopened", icon: RotateCcw },
};

/** The kind of an entry, for people. */
export function kindInWords(kind: string): string {
  return kinds[kind]?.text ?? kind;
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

/** Entries of the history, one a row, under the days on which they were made. */
export function EntryTable({ entries }: { entries: EntrySummary[] }) {
  const days = new Map<string, EntrySummary[]>();
  for (const entry of entries) {
    const name = weekday(entry.at);
    days.set(name, [...(days.get(name) ?? []), entry]);
  }
  return (
    <div className="scroll">
      <table className="rows entries">
        <thead>
          <tr>
            <th className="number">No.</th>
            <th>Time</th>
            <th>Kind</th>
            <th>What</th>
            <th className="number">Rows</th>
            <th>Who</th>
            <th>Reason</th>
            <th>State</th>
          </tr>
        </thead>
        {[...days].map(([name, ofDay]) => (
          <tbody key={name}>
            <tr className="day">
              <th scope="rowgroup" colSpan={8}>
                {name} <span className="muted">{counted(ofDay.length, "entry", "entries")}</span>
              </th>
            </tr>
            {ofDay.map((entry) => (
              <Entry key={entry.number} entry={entry} />
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

function Entry({ entry }: { entry: EntrySummary }) {
  const Icon = kinds[entry.kind]?.icon;
  return (
    <tr>
      <td className="number">
        <Link to={`/history/${entry.number}`}>{entry.number}</Link>
      </td>
      <td className="short" title={moment(entry.at)}>
        {timeOfDay(entry.at)}
      </td>
      <td className="short">
        {Icon && <Icon size={14} aria-hidden className="mark" />} {kindInWords(entry.kind)}{" "}
        <span className="muted">{entry.recordType}</span>
      </td>
      <td>
        <Link to={`/history/${entry.number}`} className="clip">
          {entryInWords(entry)}
        </Link>
      </td>
      <td className="number">{entry.rows.toLocaleString()}</td>
      <td>{entry.actor}</td>
      <td>
        <span className="clip" title={entry.reason}>
          {entry.reason}
        </span>
      </td>
      <td className="short">
        <State entry={entry} />
      </td>
    </tr>
  );
}

/** Whether what was done is in effect, and the way back. */
function State({ entry }: { entry: EntrySummary }) {
  if (entry.kind === "merge" && entry.reversedBy)
    return (
      <>
        <Undo2 size={14} aria-hidden className="mark" />{" "}
        <Link to={`/history/${entry.reversedBy}`}>Reversed by {entry.reversedBy}</Link>
      </>
    );
  if (entry.kind === "merge") return "In effect";
  if (entry.kind !== "non-duplicates") return null;
  return entry.isInEffect === false ? (
    <>
      <RotateCcw size={14} aria-hidden className="mark" /> Reopened
    </>
  ) : (
    <Link to={`/history/${entry.number}?reopen=true`}>Reopen</Link>
  );
}
