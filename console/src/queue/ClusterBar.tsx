import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import type { Cluster, Session } from "../api/client";
import { amount, counted } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { useKeys } from "../ui/useKeys";
import { Gauge } from "./Gauge";
import { useDecisions } from "./useDecisions";

/** What cluster is being looked at, who has it in hand, and the decisions about it that are no merge. */
export function ClusterBar({
  cluster,
  session,
  compared,
  isClaiming,
  goOn,
  back,
}: {
  cluster: Cluster;
  session: Session;
  /** The keys of the records that are compared; those left out can be kept apart from them. */
  compared: string[];
  /** True while it is being taken in hand. */
  isClaiming: boolean;
  goOn: () => Promise<void>;
  back: () => Promise<void>;
}) {
  const { markNonDuplicates, postpone, exclude } = useDecisions();
  const onward = useMutation({ mutationFn: (where: () => Promise<void>) => where() });
  const busy = markNonDuplicates.isPending || postpone.isPending || exclude.isPending;
  const leftOut = cluster.records.filter((record) => compared.length > 0 && !compared.includes(record.key));
  const other = cluster.assignee !== null && cluster.assignee !== session.name ? cluster.assignee : null;
  const decided = cluster.state === "merged" || cluster.state === "non-duplicates";
  const whyNot = decided
    ? `It is decided: ${cluster.state.replace("-", " ")}.`
    : session.role === "viewer"
      ? "Viewers look, but do not decide."
      : other
        ? `${other} has it in hand.`
        : null;
  const decide = (mutation: typeof markNonDuplicates | typeof postpone) => {
    if (whyNot === null && !busy) mutation.mutate([cluster], { onSuccess: () => onward.mutate(goOn) });
  };
  useKeys({
    a: () => decide(markNonDuplicates),
    o: () => decide(postpone),
    t: () => onward.mutate(goOn),
    b: () => onward.mutate(back),
  });
  const failed = markNonDuplicates.error ?? postpone.error ?? exclude.error ?? onward.error;
  return (
    <>
      {failed && <ProblemNote error={failed} />}
      <div className="bar cluster-bar">
        <strong>Cluster {cluster.id}</strong>
        <Gauge percent={cluster.confidence} />
        <span className="muted">
          {counted(cluster.relatedRows, "related row", "related rows")}
          {cluster.amount && ` worth ${amount(cluster.amount)}`}
          {cluster.assignee === session.name
            ? "; you have it in hand"
            : other
              ? `; ${other} has it in hand`
              : isClaiming
                ? "; being taken in hand…"
                : ""}
        </span>
        <span className="push why">{whyNot}</span>
        {leftOut.map((record) => (
          <Button
            key={record.key}
            size="compact-sm"
            variant="default"
            disabled={whyNot !== null}
            loading={exclude.isPending}
            onClick={() => exclude.mutate({ cluster, key: record.key })}
          >
            {record.key} is another one
          </Button>
        ))}
        <Button
          size="compact-sm"
          variant="default"
          disabled={whyNot !== null}
          loading={markNonDuplicates.isPending}
          onClick={() => decide(markNonDuplicates)}
        >
          Keep apart (a)
        </Button>
        <Button
          size="compact-sm"
          variant="default"
          disabled={whyNot !== null}
          loading={postpone.isPending}
          onClick={() => decide(postpone)}
        >
          Put off a week (o)
        </Button>
        <Button size="compact-sm" variant="default" onClick={() => onward.mutate(goOn)}>
          Next (t)
        </Button>
        <Button size="compact-sm" variant="default" onClick={() => onward.mutate(back)}>
          Back to the queue (b)
        </Button>
      </div>
    </>
  );
}
