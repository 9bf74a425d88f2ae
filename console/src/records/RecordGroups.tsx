import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Session } from "../api/client";
import { clusterAddress, readFilter } from "../queue/filter";
import { postponedInWords } from "../queue/postponedInWords";
import { useDecisions } from "../queue/useDecisions";
import { ProblemNote } from "../ui/ProblemNote";
import { failureOf } from "../ui/stale";

/** The groups of possible duplicates that a record is in, open or postponed; nothing if there are none. */
export function RecordGroups({ type, id, session }: { type: string; id: string; session: Session }) {
  const decisions = useDecisions();
  const groups = useQuery({
    queryKey: ["clusters", "of", type, id],
    queryFn: () => api.clusters({ type, record: id, state: "all" }),
  });
  const failure = failureOf(groups);
  if (failure) return <ProblemNote error={failure} retry={() => groups.refetch()} />;
  const whyNot = session.role === "viewer" ? t`Your role has read-only access.` : null;
  return (
    <>
      {decisions.error !== null && decisions.error !== undefined && <ProblemNote error={decisions.error} />}
      {groups.data?.items.map((group) => (
        <div key={group.id} className="note" role="note">
          <strong>
            <Trans>Possible duplicates:</Trans>
          </strong>{" "}
          <Link to={clusterAddress(type, group.id, readFilter(new URLSearchParams()))}>
            {group.records
              .filter((record) => record.key !== id)
              .map((record) => record.label)
              .join(", ")}
          </Link>{" "}
          ({Math.round(group.confidence)} %).
          {group.state === "postponed" && (
            <>
              {" "}
              {postponedInWords(group)}{" "}
              <Button
                size="compact-sm"
                variant="default"
                disabled={whyNot !== null}
                title={whyNot ?? undefined}
                loading={decisions.isPending}
                onClick={() => decisions.resume([group])}
              >
                <Trans>Resume</Trans>
              </Button>
            </>
          )}
          {group.assignee && <> {t`Assigned to ${group.assignee}.`}</>}
        </div>
      ))}
    </>
  );
}
