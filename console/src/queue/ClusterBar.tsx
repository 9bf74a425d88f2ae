import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import type { Cluster, ClusterPlace, Session } from "../api/client";
import { amount, counted, day } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { useKeys } from "../ui/useKeys";
import { Gauge } from "./Gauge";
import { useDecisions } from "./useDecisions";

/** What group is being looked at, who it is assigned to, and the decisions about it that are no merge. */
export function ClusterBar({
  cluster,
  amountTitle,
  session,
  compared,
  isClaiming,
  place,
  other,
  isDecided,
  takeOver,
  goOn,
  next,
  previous,
  skip,
  back,
}: {
  cluster: Cluster;
  /** What its amount is the sum of, or null. */
  amountTitle: string | null;
  session: Session;
  /** The keys of the records that are compared; those left out can be marked as not duplicates of them. */
  compared: string[];
  /** True while it is being claimed. */
  isClaiming: boolean;
  /** Where it is in the queue; undefined until that is known. */
  place: ClusterPlace | undefined;
  /** Who else it is assigned to, or null. */
  other: string | null;
  isDecided: boolean;
  takeOver: () => void;
  goOn: () => Promise<void>;
  next: () => Promise<void>;
  previous: () => Promise<void>;
  skip: () => Promise<void>;
  back: () => Promise<void>;
}) {
  const decisions = useDecisions();
  const onward = useMutation({ mutationFn: (where: () => Promise<void>) => where() });
  const leftOut = cluster.records.filter((record) => compared.length > 0 && !compared.includes(record.key));
  const whyNot = isDecided
    ? `It is decided: ${cluster.state.replace("-", " ")}.`
    : session.role === "viewer"
      ? "Your role has read-only access."
      : other
        ? `Assigned to ${other}.`
        : null;
  const isPostponed = cluster.state === "postponed";
  const decide = (kind: "non-duplicates" | "postpone") => {
    if (whyNot === null && !decisions.isPending)
      decisions.ask({ kind, clusters: [cluster] }, () => onward.mutate(goOn));
  };
  useKeys({
    a: () => decide("non-duplicates"),
    o: () => (isPostponed ? whyNot === null && decisions.resume([cluster]) : decide("postpone")),
    t: () => onward.mutate(next),
    p: () => onward.mutate(previous),
    n: () => onward.mutate(skip),
    b: () => onward.mutate(back),
  });
  const failed = decisions.error ?? onward.error;
  return (
    <>
      {failed !== null && failed !== undefined && <ProblemNote error={failed} />}
      {decisions.panel}
      {isPostponed && (
        <div className="note" role="status">
          <strong>Postponed until {day(cluster.postponedUntil)}</strong>
          {cluster.postponedBy && ` by ${cluster.postponedBy}`}
          {cluster.postponedReason ? `: “${cluster.postponedReason}”` : "."}
        </div>
      )}
      <div className="bar cluster-bar">
        <strong>Group {cluster.id}</strong>
        {place?.position && (
          <span className="muted">
            {place.position} of {place.total}
          </span>
        )}
        <Gauge percent={cluster.confidence} />
        <span className="muted">
          {counted(cluster.relatedRows, "related record", "related records")}
          {cluster.amount && `, ${amountTitle?.toLowerCase() ?? "amount"} ${amount(cluster.amount)}`}
          {cluster.assignee === session.name
            ? "; assigned to you"
            : other
              ? `; assigned to ${other}`
              : isClaiming
                ? "; being assigned to you…"
                : ""}
        </span>
        <span className="push why">{whyNot}</span>
        {other && !isDecided && session.role !== "viewer" && (
          <Button size="compact-sm" variant="default" onClick={takeOver}>
            Take over from {other}
          </Button>
        )}
        {leftOut.map((record) => (
          <Button
            key={record.key}
            size="compact-sm"
            variant="default"
            disabled={whyNot !== null}
            onClick={() => decisions.ask({ kind: "non-duplicates", clusters: [cluster], only: record.key })}
          >
            {record.key} is not a duplicate
          </Button>
        ))}
        <Button
          size="compact-sm"
          variant="default"
          disabled={whyNot !== null}
          onClick={() => decide("non-duplicates")}
        >
          Not duplicates (a)
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          disabled={whyNot !== null}
          loading={decisions.isPending}
          onClick={() => (isPostponed ? decisions.resume([cluster]) : decide("postpone"))}
        >
          {isPostponed ? "Resume (o)" : "Postpone (o)"}
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          disabled={place?.previous === null}
          title={place?.previous === null ? "No group before this one is open to you." : undefined}
          onClick={() => onward.mutate(previous)}
        >
          Previous (p)
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          title="Go to the next group, and leave this one out until you close the tab."
          onClick={() => onward.mutate(skip)}
        >
          Skip (n)
        </Button>
        <Button size="compact-sm" variant="default" onClick={() => onward.mutate(next)}>
          Next (t)
        </Button>
        <Button size="compact-sm" variant="default" onClick={() => onward.mutate(back)}>
          Back to the queue (b)
        </Button>
      </div>
    </>
  );
}
