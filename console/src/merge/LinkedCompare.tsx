import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { api, type Offer, type Plan, type PlanField } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { RoleMark } from "../ui/RoleMark";
import { Table } from "../ui/Table";
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
      <Table
        label={t`Differences: ${offer.title}`}
        rows={shown}
        keyOf={(field) => field.name}
        columns={[
          { head: t`Field`, kind: "muted", cell: (field) => field.title },
          {
            head: t`Result`,
            cell: (field) => (
              <>
                <Value text={field.value} />
                <div className="muted small">{because(field, keyOf)}</div>
              </>
            ),
          },
          ...plan.records.map((record, at) => ({
            head: (
              <>
                <RoleMark isMaster={at === 0} /> {record.key}
              </>
            ),
            cell: (field: PlanField) => (
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
            ),
          })),
        ]}
      >
        {shown.length === 0 && (
          <tr>
            <td colSpan={plan.records.length + 2} className="muted">
              <Trans>All fields are the same.</Trans>
            </td>
          </tr>
        )}
      </Table>
    </div>
  );
}
