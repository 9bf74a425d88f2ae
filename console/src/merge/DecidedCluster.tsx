import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Cluster, Comment, EntrySummary, Session } from "../api/client";
import { Comments } from "../queue/Comments";
import { useDecisions } from "../queue/useDecisions";
import { moment } from "../ui/format";
import { KeyButton } from "../ui/KeyButton";
import { ProblemNote } from "../ui/ProblemNote";
import { useKeys } from "../ui/useKeys";

/** A group about which nothing is left to decide: what was decided, by whom, and where to go from here. */
export function DecidedCluster({
  cluster,
  decision,
  comments,
  session,
  next,
  back,
}: {
  cluster: Cluster;
  decision: EntrySummary | null;
  comments: Comment[];
  session: Session;
  next: () => Promise<void>;
  back: () => Promise<void>;
}) {
  const decisions = useDecisions();
  const onward = useMutation({ mutationFn: (where: () => Promise<void>) => where() });
  const isMerged = cluster.state === "merged";
  const whyNot = session.role === "viewer" ? t`Your role has read-only access.` : null;
  const reopen = () => {
    if (!isMerged && whyNot === null) decisions.ask({ kind: "reopen", clusters: [cluster] });
  };
  useKeys("group", { next: () => onward.mutate(next), back: () => onward.mutate(back), reopen });
  return (
    <section className="panel decided" aria-label={t`Decision`}>
      <h1>{isMerged ? t`Already merged` : t`Marked as not duplicates`}</h1>
      {onward.error && <ProblemNote error={onward.error} />}
      {decisions.panel}
      {decision && (
        <p>
          <Trans>
            By {decision.actor}, {moment(decision.at)}
            {decision.reason && `: “${decision.reason}”`}.{" "}
            <Link to={`/history/${decision.number}`}>Open entry {decision.number} of the history</Link>
            {isMerged && t`, where the merge can be reversed`}.
          </Trans>
        </p>
      )}
      <ul>
        {cluster.records.map((record) => (
          <li key={record.key}>
            <Link to={`/records/${cluster.recordType}/${encodeURIComponent(record.key)}`}>
              {record.label}
            </Link>{" "}
            <span className="muted">{record.key}</span>
          </li>
        ))}
      </ul>
      <div className="bar">
        <KeyButton
          scope="group"
          action="next"
          label={t`Next`}
          variant="filled"
          loading={onward.isPending}
          press={() => onward.mutate(next)}
        />
        <KeyButton
          scope="group"
          action="back"
          label={t`Back to the queue`}
          press={() => onward.mutate(back)}
        />
        {!isMerged && (
          <KeyButton scope="group" action="reopen" label={t`Reopen`} whyNot={whyNot} press={reopen} />
        )}
        <Comments cluster={cluster.id} comments={comments} session={session} scope="group" />
        <span className="why">{whyNot}</span>
      </div>
    </section>
  );
}
