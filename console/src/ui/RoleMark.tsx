import { t } from "@lingui/core/macro";

/** Whether a record is the one that stays, or one that is merged into it. */
export function RoleMark({ isMaster }: { isMaster: boolean }) {
  return (
    <span className={isMaster ? "role-master" : "role-duplicate"}>{isMaster ? t`Master` : t`Duplicate`}</span>
  );
}
