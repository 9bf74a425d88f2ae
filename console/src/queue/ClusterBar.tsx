import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { ArrowLeft, ChevronLeft } from "lucide-react";
import type { Cluster, ClusterPlace, Comment, Session } from "../api/client";
import { KeyButton } from "../ui/KeyButton";
import { ProblemNote } from "../ui/ProblemNote";
import { useKeys } from "../ui/useKeys";
import { Comments } from "./Comments";
import { Gauge } from "./Gauge";
import { postponedInWords } from "./postponedInWords";
import { useDecisions } from "./useDecisions";

/** What group is being looked at, who it is assigned to, and the decisions about it that are no merge. */
export function ClusterBar({
  cluster,
  session,
  comments,
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
  session: Session;
  comments: Comment[];
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
    ? t`It is decided: ${cluster.state.replace("-", " ")}.`
    : session.role === "viewer"
      ? t`Your role has read-only access.`
      : other
        ? t`Assigned to ${other}.`
        : null;
  const isPostponed = cluster.state === "postponed";
  const decide = (kind: "non-duplicates" | "postpone") => {
    if (whyNot === null && !decisions.isPending)
      decisions.ask({ kind, clusters: [cluster] }, () => onward.mutate(goOn));
  };
  useKeys("group", {
    nonDuplicates: () => decide("non-duplicates"),
    postpone: () => (isPostponed ? whyNot === null && decisions.resume([cluster]) : decide("postpone")),
    next: () => onward.mutate(next),
    previous: () => onward.mutate(previous),
    skip: () => onward.mutate(skip),
    back: () => onward.mutate(back),
  });
  const failed = decisions.error ?? onward.error;
  const key = { scope: "group", size: "compact-xs" } as const;
  return (
    <>
      <span className="cluster-bar">
        <strong>
          <Trans>Group {cluster.id}</Trans>
        </strong>
        {place?.position && (
          <span className="muted">
            <Trans>
              {place.position} of {place.total}
            </Trans>
          </span>
        )}
        <Gauge percent={cluster.confidence} />
        <span className="muted">
          {cluster.assignee === session.name
            ? t`assigned to you`
            : other
              ? t`assigned to ${other}`
              : isClaiming
                ? t`being assigned to you…`
                : ""}
        </span>
        {other && !isDecided && session.role !== "viewer" && (
          <Button size="compact-sm" variant="default" onClick={takeOver}>
            <Trans>Take over from {other}</Trans>
          </Button>
        )}
      </span>
      <span className="push head-actions">
        <Comments key={cluster.id} cluster={cluster.id} comments={comments} session={session} scope="group" />
        {leftOut.map((record) => (
          <Button
            key={record.key}
            size="compact-sm"
            variant="default"
            disabled={whyNot !== null}
            title={whyNot ?? undefined}
            onClick={() => decisions.ask({ kind: "non-duplicates", clusters: [cluster], only: record.key })}
          >
            <Trans>{record.key} is not a duplicate</Trans>
          </Button>
        ))}
        <KeyButton
          {...key}
          action="nonDuplicates"
          label={t`Not duplicates`}
          whyNot={whyNot}
          press={() => decide("non-duplicates")}
        />
        <KeyButton
          {...key}
          action="postpone"
          label={isPostponed ? t`Resume` : t`Postpone`}
          whyNot={whyNot}
          loading={decisions.isPending}
          press={() => (isPostponed ? decisions.resume([cluster]) : decide("postpone"))}
        />
        <KeyButton
          {...key}
          action="previous"
          label={t`Previous`}
          icon={<ChevronLeft size={16} aria-hidden />}
          whyNot={place?.previous === null ? t`No group before this one is open to you.` : null}
          press={() => onward.mutate(previous)}
        />
        <KeyButton
          {...key}
          action="skip"
          label={t`Skip`}
          does={t`Go to the next group, and leave this one out until you close the tab.`}
          press={() => onward.mutate(skip)}
        />
        <KeyButton {...key} action="next" label={t`Next`} press={() => onward.mutate(next)} />
        <KeyButton
          {...key}
          action="back"
          label={t`Back to the queue`}
          icon={<ArrowLeft size={16} aria-hidden />}
          press={() => onward.mutate(back)}
        />
      </span>
      {failed !== null && failed !== undefined && <ProblemNote error={failed} />}
      {decisions.panel}
      {isPostponed && (
        <div className="note" role="status">
          {postponedInWords(cluster)}
        </div>
      )}
    </>
  );
}
