import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Combine, type LucideIcon, RotateCcw, Split, Undo2 } from "lucide-react";
import { Link } from "react-router";
import type { EntrySummary } from "../api/client";
import { moment, number, timeOfDay, weekday } from "../ui/format";

const kinds: Record<string, { text: string; icon: LucideIcon }> = {
  merge: { text: t`Merge`, icon: Combine },
  reversal: { text: t`Reversal`, icon: Undo2 },
  "non-duplicates": { text: t`Not duplicates`, icon: Split },
  reopened: { text: t`Reopened`, icon: RotateCcw },
};

/** The kind of an entry, for people. */
export function kindInWords(kind: string): string {
  return kinds[kind]?.text ?? kind;
}

/** What an entry tells of, in a few words. */
export function entryInWords(entry: EntrySummary): string {
  const [master, ...duplicates] = entry.records;
  const into = `${master?.key} ${master?.label}`;
  const keys = entry.records.map((record) => record.key).join(", ");
  switch (entry.kind) {
    case "merge":
      return t`${duplicates.map((record) => record.key).join(", ")} into ${into}`;
    case "reversal":
      if (entry.only) return t`Merge ${entry.reverses ?? ""} into ${into} reversed for ${entry.only} only`;
      return t`Merge ${entry.reverses ?? ""} into ${into} reversed`;
    case "non-duplicates":
      return t`${keys} marked as not duplicates`;
    default:
      return t`${keys} reopened`;
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
            <th className="number">
              <Trans>No.</Trans>
            </th>
            <th>
              <Trans>Time</Trans>
            </th>
            <th>
              <Trans>Kind</Trans>
            </th>
            <th>
              <Trans>What</Trans>
            </th>
            <th className="number">
              <Trans>Rows</Trans>
            </th>
            <th>
              <Trans>Who</Trans>
            </th>
            <th>
              <Trans>Reason</Trans>
            </th>
            <th>
              <Trans>State</Trans>
            </th>
          </tr>
        </thead>
        {[...days].map(([name, ofDay]) => (
          <tbody key={name}>
            <tr className="day">
              <th scope="rowgroup" colSpan={8}>
                {name}{" "}
                <span className="muted">{plural(ofDay.length, { one: "# entry", other: "# entries" })}</span>
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
      <td className="number">{number(entry.rows)}</td>
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
        <Link to={`/history/${entry.reversedBy}`}>
          <Trans>Reversed by {entry.reversedBy}</Trans>
        </Link>
      </>
    );
  if (entry.kind === "merge") return t`In effect`;
  if (entry.kind !== "non-duplicates") return null;
  return entry.isInEffect === false ? (
    <>
      <RotateCcw size={14} aria-hidden className="mark" /> <Trans>Reopened</Trans>
    </>
  ) : (
    <Link to={`/history/${entry.number}?reopen=true`}>
      <Trans>Reopen</Trans>
    </Link>
  );
}
