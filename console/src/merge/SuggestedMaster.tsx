import { Button } from "@mantine/core";
import type { Plan } from "../api/client";

/** Which record is suggested as the master, and why. */
export function SuggestedMaster({ plan, makeMaster }: { plan: Plan; makeMaster: (key: string) => void }) {
  const suggestion = plan.suggestion;
  const record = plan.records.find((each) => each.key === suggestion?.key);
  if (!suggestion || !record || suggestion.reasons.length === 0) return null;
  const isMaster = plan.records[0]?.key === record.key;
  return (
    <div className="note suggestion">
      <strong>{isMaster ? "The suggested master:" : "Suggested as the master:"}</strong>
      <span>
        {record.key} {record.label}. <span className="muted">{suggestion.reasons.join(" ")}</span>
      </span>
      {!isMaster && (
        <Button className="push" size="compact-sm" variant="default" onClick={() => makeMaster(record.key)}>
          Make {record.key} the master (s)
        </Button>
      )}
    </div>
  );
}
