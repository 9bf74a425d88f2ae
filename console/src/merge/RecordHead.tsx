import { Button } from "@mantine/core";
import type { Plan } from "../api/client";
import { day } from "../ui/format";

/** The head of a record's column: what it is in the merge, where it comes from, and what can be done with it. */
export function RecordHead({
  record,
  isMaster,
  suggestedFor,
  makeMaster,
  leaveOut,
}: {
  record: Plan["records"][number];
  isMaster: boolean;
  /** Why it is suggested as the master; null if another is, or nothing speaks for it. */
  suggestedFor: string[] | null;
  makeMaster: (key: string) => void;
  leaveOut: ((key: string) => void) | null;
}) {
  return (
    <th scope="col">
      <span className={isMaster ? "role-master" : "role-duplicate"}>{isMaster ? "Master" : "Duplicate"}</span>{" "}
      <span className="muted">{record.key}</span>
      <div style={{ fontWeight: 600 }} className="clip" dir="auto" title={record.label}>
        {record.label}
      </div>
      <div className="muted small">
        Created {day(record.created) || "unknown"}, changed {day(record.changed) || "unknown"}
      </div>
      <div className="muted small">
        {record.source ? `From ${record.source}` : "Source unknown"}
        {record.owner ? `, owner ${record.owner}` : ""}
      </div>
      {suggestedFor && (
        <div className="small clip" title={suggestedFor.join(" ")}>
          <strong>Suggested master:</strong> <span className="muted">{suggestedFor.join(" ")}</span>
        </div>
      )}
      <div className="head-buttons">
        {!isMaster && (
          <Button size="compact-xs" variant="default" onClick={() => makeMaster(record.key)}>
            {suggestedFor ? "Make master (s)" : "Make master"}
          </Button>
        )}
        {leaveOut && (
          <Button size="compact-xs" variant="default" onClick={() => leaveOut(record.key)}>
            Leave out
          </Button>
        )}
      </div>
    </th>
  );
}
