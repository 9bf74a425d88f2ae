import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Cluster, type Session } from "../api/client";
import { CommentDialog, commentsInWords, LastComment } from "../queue/Comments";
import { clusterAddress, readFilter } from "../queue/filter";
import { percentOf } from "../queue/Gauge";
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
          ({percentOf(group.confidence)}).
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
          {group.assignee && <> {t`Assigned to ${group.assignee}.`}</>}{" "}
          <GroupComments group={group} session={session} />
        </div>
      ))}
    </>
  );
}

/** What was said about the records of a group; it is read only where there is something. */
function GroupComments({ group, session }: { group: Cluster; session: Session }) {
  const [isOpen, open] = useState(false);
  const count = group.comments ?? 0;
  const detail = useQuery({
    queryKey: ["cluster", group.id],
    queryFn: () => api.cluster(group.id),
    enabled: count > 0 || isOpen,
  });
  const comments = detail.data?.comments ?? [];
  const last = comments.at(-1);
  return (
    <>
      <Button size="compact-sm" variant="default" onClick={() => open(true)}>
        {commentsInWords(count)}
      </Button>
      {last && <LastComment comment={last} />}
      {detail.error && <ProblemNote error={detail.error} retry={() => detail.refetch()} />}
      {isOpen && detail.data && (
        <CommentDialog cluster={group.id} comments={comments} session={session} close={() => open(false)} />
      )}
    </>
  );
}
