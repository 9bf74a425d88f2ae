import { t } from "@lingui/core/macro";
import { Tooltip } from "@mantine/core";
import type { ReactNode } from "react";

/** What the words of the console mean, in a sentence or two. */
const terms = {
  amount: t`The sum of the figure that the record map names as the amount, over all records of the group.`,
  blocker: t`Something that keeps records from being merged until it is cleared.`,
  certain: t`The match rule's upper threshold is reached: groups that are hardly ever wrong.`,
  confidence: t`How likely the records are the same, from the evidence: the mean over the pairs of the group.`,
  controlTotals: t`Sums that must be the same before and after. A merge that would change one is not committed.`,
  group: t`Records that are probably one and the same, found by a scan.`,
  retired: t`A record that was merged into another one. Its key leads to the master.`,
  rule: t`The survivorship rule says which record's value stays.`,
} as const;

export type TermName = keyof typeof terms;

/** A word that explains itself, under the pointer and when it has the focus. */
export function Term({ name, children }: { name: TermName; children: ReactNode }) {
  return (
    <Tooltip
      label={terms[name]}
      multiline
      w={280}
      events={{ hover: true, focus: true, touch: true }}
      transitionProps={{ duration: 0 }}
    >
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: whoever uses the keyboard reads the explanation, too */}
      <span className="term" tabIndex={0}>
        {children}
      </span>
    </Tooltip>
  );
}
