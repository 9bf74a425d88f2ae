import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import {
  api,
  type Cluster,
  type MapView,
  type PlanField,
  type PlanRequest,
  type Session,
} from "../api/client";
import { EvidencePanel } from "../merge/EvidencePanel";
import { MergeSide } from "../merge/MergeSide";
import { amount } from "../ui/format";
import { KeptValue } from "../ui/KeptValue";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { RoleMark } from "../ui/RoleMark";
import { refreshAll } from "../ui/refresh";
import { Table } from "../ui/Table";
import { useFolded } from "../ui/useFolded";
import { Value } from "../ui/Value";
import { Comments } from "./Comments";
import { forgetDecided } from "./forget";
import { Gauge } from "./Gauge";
import { mergedNotice } from "./mergedNotice";

/** Whoever goes down a list by key looks at the row at which they stop, in milliseconds. */
const pause = 120;

/** The group of a row, as far as it takes to decide a clear case without leaving the list. */
export function GroupPreview({
  cluster,
  address,
  map,
  session,
}: {
  cluster: Cluster;
  /** Where its records are compared. */
  address: string;
  map: MapView;
  session: Session;
}) {
  const [settled] = useDebouncedValue(cluster, pause);
  const type = map.recordTypes.find((each) => each.name === cluster.recordType);
  const [isOpen, fold] = useFolded("evidence in the list");
  const isSettled = settled.id === cluster.id;
  const detail = useQuery({
    queryKey: ["cluster", settled.id],
    queryFn: () => api.cluster(settled.id),
    enabled: isSettled,
  });
  const keys = cluster.records.map((record) => record.key);
  const master = detail.data?.suggestion?.key ?? keys[0] ?? "";
  return (
    <section className="panel preview" aria-label={t`Group ${cluster.id}`}>
      <header>
        <h2>
          <Link to={address}>
            <Trans>Group {cluster.id}</Trans>
          </Link>
        </h2>
        <Gauge percent={cluster.confidence} />
        <span className="muted">
          {plural(cluster.relatedRows, { one: "# related record", other: "# related records" })}
          {cluster.amount && `, ${type?.amountTitle?.toLowerCase() ?? t`amount`} ${amount(cluster.amount)}`}
        </span>
        <button type="button" className="word-button push" aria-expanded={isOpen} onClick={fold}>
          {isOpen ? t`Hide evidence` : t`Show evidence`}
        </button>
      </header>
      {isOpen && isSettled && (
        <EvidencePanel
          type={cluster.recordType}
          master={master}
          others={keys.filter((key) => key !== master)}
        />
      )}
      <div className="said-here">
        {!isOpen && <span className="muted">{cluster.summary || t`no supporting evidence`}</span>}
        <Comments
          key={cluster.id}
          cluster={cluster.id}
          comments={(isSettled && detail.data?.comments) || []}
          session={session}
          scope="queue"
        />
      </div>
      {detail.error ? (
        <ProblemNote error={detail.error} retry={() => detail.refetch()} />
      ) : detail.data && isSettled ? (
        <PlannedGroup
          key={cluster.id}
          cluster={detail.data.cluster}
          master={master}
          rule={detail.data.rule ?? null}
          requireReason={type?.requireReason ?? false}
          session={session}
        />
      ) : (
        <Reading what={t`the plan`} rows={6} />
      )}
    </section>
  );
}

/** What a merge would make of a group's values, and the merge. */
function PlannedGroup({
  cluster,
  master,
  rule,
  requireReason,
  session,
}: {
  cluster: Cluster;
  master: string;
  rule: string | null;
  requireReason: boolean;
  session: Session;
}) {
  const queries = useQueryClient();
  const notices = useNotices();
  const request: PlanRequest = {
    recordType: cluster.recordType,
    master,
    duplicates: cluster.records.map((record) => record.key).filter((key) => key !== master),
    fields: {},
    exclude: [],
    end: [],
    reopen: false,
    linked: [],
    rule,
  };
  const planKey = ["plan", request];
  const isOpen = ["open", "assigned", "postponed"].includes(cluster.state);
  const planned = useQuery({
    queryKey: planKey,
    queryFn: () => api.plan(request),
    enabled: isOpen,
    staleTime: 0,
  });
  if (!isOpen)
    return (
      <p className="body">
        <Trans>
          {cluster.state === "merged" ? t`Merged.` : t`Marked as not duplicates.`} Open the group to see by
          whom.
        </Trans>
      </p>
    );
  if (planned.error) return <ProblemNote error={planned.error} retry={() => planned.refetch()} />;
  if (!planned.data) return <Reading what={t`the plan`} rows={6} />;
  const plan = planned.data;
  const other = cluster.assignee && cluster.assignee !== session.name ? cluster.assignee : null;
  const obstacle =
    session.role === "viewer"
      ? t`Your role has read-only access.`
      : plan.blockers.length > 0
        ? t`Blocked; open the group to clear it.`
        : other
          ? t`Assigned to ${other}: open the group to take it over.`
          : null;
  const differing = plan.fields.filter((field) => field.differs && field.kind !== "unmapped");
  return (
    <>
      <div className="scroll values">
        <Table
          rows={differing}
          keyOf={(field) => field.name}
          columns={[
            { head: t`Field`, isRowHead: true, cell: (field) => field.title },
            ...plan.records.map((record, at) => ({
              head: (
                <>
                  <RoleMark isMaster={at === 0} /> {record.key}
                </>
              ),
              cell: (field: PlanField) => (
                <KeptValue isKept={field.from === at}>
                  <Value
                    text={field.values[at]}
                    beside={at === 0 ? null : field.values[0]}
                    kind={field.kind}
                    clip
                  />
                </KeptValue>
              ),
            })),
          ]}
        >
          {differing.length === 0 && (
            <tr>
              <td colSpan={plan.records.length + 1} className="muted">
                <Trans>All fields are the same.</Trans>
              </td>
            </tr>
          )}
        </Table>
      </div>
      <MergeSide
        plan={plan}
        request={request}
        planKey={planKey}
        keptAs={`reason ${cluster.recordType} ${cluster.id}`}
        requireReason={requireReason}
        obstacle={planned.isFetching ? t`Updating the plan.` : obstacle}
        isDrawn={() => true}
        done={(entry) => {
          forgetDecided(queries, [cluster.id]);
          notices.say(mergedNotice(entry.summary));
          void refreshAll(queries);
        }}
      />
    </>
  );
}
