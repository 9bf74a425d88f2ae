import type { Plan } from "../api/client";
import { day, figure } from "../ui/format";
import { shownKey } from "../ui/keyMap";

/** The head of a record's column: what it is in the merge, where it comes from, and what can be done with it. */
export function RecordHead({
  record,
  place,
  figures,
  isMaster,
  suggestedFor,
  makeMaster,
  leaveOut,
}: {
  record: Plan["records"][number];
  /** Which of the plan's records it is. */
  place: number;
  /** The figures by which records are told apart at a glance. */
  figures: Plan["figures"];
  isMaster: boolean;
  /** Why it is suggested as the master; null if another is, or nothing speaks for it. */
  suggestedFor: string[] | null;
  makeMaster: (key: string) => void;
  leaveOut: ((key: string) => void) | null;
}) {
  const history = [
    `Created ${day(record.created) || "unknown"}`,
    `changed ${day(record.changed) || "unknown"}`,
    record.source ? `from ${record.source}` : "source unknown",
    ...(record.owner ? [`owner ${record.owner}`] : []),
  ].join(", ");
  const amounts = figures
    .map((each) => `${each.title} ${figure(each.operation, each.before[place])}`)
    .join(", ");
  return (
    <th scope="col">
      <div className="head-line">
        <span className={isMaster ? "role-master" : "role-duplicate"}>
          {isMaster ? "Master" : "Duplicate"}
        </span>
        <span className="muted key">{record.key}</span>
        {!isMaster && (
          <button type="button" className="word-button" onClick={() => makeMaster(record.key)}>
            {suggestedFor ? `Make master (${shownKey("compare", "takeSuggested")})` : "Make master"}
          </button>
        )}
        {leaveOut && (
          <button type="button" className="word-button" onClick={() => leaveOut(record.key)}>
            Leave out
          </button>
        )}
      </div>
      <div className="head-name" dir="auto" title={record.label}>
        {record.label}
      </div>
      <div className="muted small one-line" title={history}>
        {history}
      </div>
      {amounts && (
        <div className="small one-line" title={amounts}>
          {amounts}
        </div>
      )}
      {suggestedFor && !isMaster && (
        <div className="small one-line" title={suggestedFor.join(" ")}>
          <strong>Suggested master:</strong> <span className="muted">{suggestedFor.join(" ")}</span>
        </div>
      )}
      {suggestedFor && isMaster && (
        <span className="visually-hidden">Suggested master: {suggestedFor.join(" ")}</span>
      )}
    </th>
  );
}
