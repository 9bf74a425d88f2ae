import { t } from "@lingui/core/macro";
import type { Cluster } from "../api/client";
import { day } from "../ui/format";

/** Until when a group is postponed, by whom, and why. */
export function postponedInWords(
  group: Pick<Cluster, "postponedUntil" | "postponedBy" | "postponedReason">,
): string {
  const until = day(group.postponedUntil);
  const said = group.postponedBy
    ? t`Postponed until ${until} by ${group.postponedBy}`
    : t`Postponed until ${until}`;
  return group.postponedReason ? `${said}: “${group.postponedReason}”` : `${said}.`;
}
