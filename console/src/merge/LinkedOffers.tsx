import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox, NativeSelect } from "@mantine/core";
import { useState } from "react";
import type { LinkedMerge, Offer, Plan } from "../api/client";
import { listed } from "../ui/format";
import { fieldsFrom, takenOf } from "./choices";
import { LinkedCompare } from "./LinkedCompare";
import { planInShort } from "./PlanPanel";

/** The linked merge that was chosen out of an offer, if any. */
export function chosenOf(offer: Offer, linked: LinkedMerge[]): LinkedMerge | undefined {
  const keys = offer.records.map((record) => record.key);
  return linked.find(
    (merge) =>
      merge.recordType === offer.recordType &&
      [merge.master, ...merge.duplicates].every((key) => keys.includes(key)),
  );
}

/** The linked merges without one of them, and without what only it brought to light. */
export function withoutLinked(linked: LinkedMerge[], offers: Offer[], gone: LinkedMerge): LinkedMerge[] {
  const deeper = offers
    .filter((offer) => offer.ofRecordType === gone.recordType && offer.ofMaster === gone.master)
    .flatMap((offer) => chosenOf(offer, linked) ?? []);
  return deeper.reduce(
    (left, each) => withoutLinked(left, offers, each),
    linked.filter((merge) => merge !== gone),
  );
}

/** What turns out to be double once the records are one: each can be merged along, in the same transaction. */
export function LinkedOffers({
  plan,
  linked,
  change,
}: {
  plan: Plan;
  linked: LinkedMerge[];
  change: (linked: LinkedMerge[]) => void;
}) {
  const offers = plan.offers ?? [];
  if (offers.length === 0) return null;
  return (
    <section className="panel" style={{ marginBottom: 12 }}>
      <header>
        <h2>
          <Trans>Related duplicates, merged in the same step</Trans>
        </h2>
        <span className="muted small">
          {linked.length === 0
            ? t`none of them is included yet`
            : t`${plural(linked.length, { one: "# merge", other: "# merges" })} included, in the same transaction`}
        </span>
      </header>
      <ul className="body offers">
        {offers.map((offer) => {
          const chosen = chosenOf(offer, linked);
          const planned =
            chosen &&
            plan.linked?.find(
              (each) => each.records[0]?.key === chosen.master && each.recordType === chosen.recordType,
            );
          const mergeInto = (master: string, taken: Record<string, string> = {}): LinkedMerge => ({
            recordType: offer.recordType,
            master,
            duplicates: offer.records.map((record) => record.key).filter((key) => key !== master),
            fields: fieldsFrom(taken),
            exclude: null,
            end: null,
          });
          const replace = (next: LinkedMerge) =>
            change(linked.map((merge) => (merge === chosen ? next : merge)));
          const names = listed(offer.records.map((record) => `${record.key} ${record.label}`));
          return (
            <li key={`${offer.recordType} ${offer.records.map((record) => record.key).join(" ")}`}>
              <Checkbox
                label={`${offer.title}: ${names}`}
                description={[
                  offer.reason,
                  ...(offer.suggestion.reasons.length > 0
                    ? [t`master ${offer.suggestion.key} suggested: ${offer.suggestion.reasons.join(" ")}`]
                    : []),
                ].join(" · ")}
                checked={chosen !== undefined}
                onChange={(event) =>
                  change(
                    event.currentTarget.checked
                      ? [...linked, mergeInto(offer.suggestion.key)]
                      : chosen
                        ? withoutLinked(linked, offers, chosen)
                        : linked,
                  )
                }
              />
              {chosen && (
                <span className="offer-choice">
                  <NativeSelect
                    size="xs"
                    aria-label={t`Master of ${offer.title.toLowerCase()} ${names}`}
                    value={chosen.master}
                    data={offer.records.map((record) => ({
                      value: record.key,
                      label: t`into ${record.key} ${record.label}`,
                    }))}
                    onChange={(event) => replace(mergeInto(event.currentTarget.value, takenOf(chosen)))}
                  />
                  <span className="muted small">
                    {planned ? `${planInShort(planned)}.` : t`Loading the plan…`}
                  </span>
                </span>
              )}
              <OpenedCompare
                offer={offer}
                planned={planned ?? null}
                choose={
                  chosen &&
                  ((field, key) => replace(mergeInto(chosen.master, { ...takenOf(chosen), [field]: key })))
                }
              />
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** The small comparison, read only when it is opened. */
function OpenedCompare(props: Parameters<typeof LinkedCompare>[0]) {
  const [opened, setOpened] = useState(false);
  return (
    <details className="offer-compare" onToggle={(event) => setOpened(event.currentTarget.open)}>
      <summary>
        <Trans>Differences between them</Trans>
      </summary>
      {opened && <LinkedCompare {...props} />}
    </details>
  );
}
