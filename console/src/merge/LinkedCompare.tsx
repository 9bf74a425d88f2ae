import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { api, type Offer, type Plan } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { Value } from "../ui/Value";
import { because } from "./choices";

/** A small comparison of records that would be merged along: what differs, and what would stay. */
export function LinkedCompare({
  offer,
  planned,
  choose,
}: {
  offer: Offer;
  /** The plan of the merge, if it was chosen. */
  planned: Plan | null;
  /** Takes a record's value for a field; left out while the merge is not chosen. */
  choose?: ((field: string, key: string) => void) | undefined;
}) {
  const keys = offer.records.map((record) => record.key);
  const tried = useQuery({
    queryKey: ["plan", "offer", offer.recordType, offer.suggestion.key, ...keys],
    queryFn: () =>
      api.plan({
        recordType: offer.recordType,
        master: offer.suggestion.key,
        duplicates: keys.filter((key) => key !== offer.suggestion.key),
      }),
    enabled: planned === null,
  });
  const plan = planned ?? tried.data;
  if (tried.error && !plan) return <ProblemNote error={tried.error} retry={() => tried.refetch()} />;
  if (!plan) return <Reading what={t`the records`} rows={3} />;
  const shown = plan.fields.filter((field) => field.kind !== "unmapped" && (field.differs || field.changes));
  const keyOf = (index: number) => plan.records[index]?.key ?? "";
  return (
    <div className="scroll">
      <table className="rows" aria-label={t`Differences: ${offer.title}`}>
        <thead>
          <tr>
            <th>
              <Trans>Field</Trans>
            </th>
            <th>
              <Trans>Result</Trans>
            </th>
            {plan.records.map((record, at) => (
              <th key={record.key}>
                <span className={at === 0 ? "role-master" : "role-duplicate"}>
                  {at === 0 ? t`Master` : t`Duplicate`}
                </span>{" "}
                {record.key}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.length === 0 && (
            <tr>
              <td colSpan={plan.records.length + 2} className="muted">
                <Trans>All fields are the same.</Trans>
              </td>
            </tr>
          )}
          {shown.map((field) => (
            <tr key={field.name}>
              <td className="muted">{field.title}</td>
              <td>
                <Value text={field.value} />
                <div className="muted small">{because(field, keyOf)}</div>
              </td>
              {plan.records.map((record, at) => (
                <td key={record.key}>
                  <button
                    type="button"
                    className="value-cell"
                    aria-pressed={field.from === at}
                    disabled={!choose}
                    title={choose ? undefined : t`Include the merge to choose its values.`}
                    aria-label={t`${field.title} of ${record.key}: ${field.values[at] || t`blank`}`}
                    onClick={() => choose?.(field.name, record.key)}
                  >
                    <span className="dot" aria-hidden>
                      {field.from === at ? "●" : "○"}
                    </span>
                    <Value text={field.values[at]} beside={field.value} />
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
