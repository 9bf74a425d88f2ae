import { plural, t } from "@lingui/core/macro";
import type { EntrySummary } from "../api/client";
import type { Notice } from "../ui/notices";

/** What is said after the merge of a group, and where one can go from there. */
export function mergedNotice({ number, rows, records, recordType }: EntrySummary): Notice {
  const master = `/records/${recordType}/${encodeURIComponent(records[0]?.key ?? "")}`;
  return {
    text: t`Merge ${number} is done: ${plural(rows, { one: "# related record", other: "# related records" })} moved to ${records[0]?.label ?? ""}.`,
    links: [
      { to: master, text: t`Open the master` },
      { to: `/history/${number}`, text: t`Open the merge` },
      { to: `/history/${number}?back=true`, text: t`Reverse merge` },
    ],
  };
}
