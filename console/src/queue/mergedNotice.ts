import type { EntrySummary } from "../api/client";
import { counted } from "../ui/format";
import type { Notice } from "../ui/notices";

/** What is said after the merge of a group, and where one can go from there. */
export function mergedNotice({ number, rows, records, recordType }: EntrySummary): Notice {
  const master = `/records/${recordType}/${encodeURIComponent(records[0]?.key ?? "")}`;
  return {
    text: `Merge ${number} is done: ${counted(rows, "related record", "related records")} moved to ${records[0]?.label}.`,
    links: [
      { to: master, text: "Open the master" },
      { to: `/history/${number}`, text: "Open the merge" },
      { to: `/history/${number}?back=true`, text: "Reverse merge" },
    ],
  };
}
