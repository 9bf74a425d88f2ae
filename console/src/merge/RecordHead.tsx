import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Plan } from "../api/client";
import { day, figure } from "../ui/format";
import { shownKey } from "../ui/keyMap";
import { RoleMark } from "../ui/RoleMark";

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
    t`Created ${day(record.created) || t`unknown`}`,
    t`changed ${day(record.changed) || t`unknown`}`,
    record.source ? t`from ${record.source}` : t`source unknown`,
    ...(record.owner ? [t`owner ${record.owner}`] : []),
  ].join(", ");
  const amounts = figures
    .map((each) => `${each.title} ${figure(each.operation, each.before[place])}`)
    .join(", ");
  return (
    <th scope="col">
      <div className="head-line">
        <RoleMark isMaster={isMaster} />
        <span className="muted key">{record.key}</span>
        {!isMaster && (
          <button type="button" className="word-button" onClick={() => makeMaster(record.key)}>
            {suggestedFor ? t`Make master (${shownKey("compare", "takeSuggested")})` : t`Make master`}
          </button>
        )}
        {leaveOut && (
          <button type="button" className="word-button" onClick={() => leaveOut(record.key)}>
            <Trans>Leave out</Trans>
          </button>
        )}
      </div>
      <div className="head-name" dir="auto" title={record.label}>
        {record.label}
      </div>
      <div className="muted small one-line more" title={history}>
        {history}
      </div>
      {amounts && (
        <div className="small one-line more" title={amounts}>
          {amounts}
        </div>
      )}
      {suggestedFor && !isMaster && (
        <div className="small one-line" title={suggestedFor.join(" ")}>
          <strong>
            <Trans>Suggested master:</Trans>
          </strong>{" "}
          <span className="muted">{suggestedFor.join(" ")}</span>
        </div>
      )}
      {suggestedFor && isMaster && (
        <span className="visually-hidden">
          <Trans>Suggested master: {suggestedFor.join(" ")}</Trans>
        </span>
      )}
    </th>
  );
}
