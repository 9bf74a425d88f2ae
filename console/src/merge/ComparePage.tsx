import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useRef } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, type MapView, type Plan, type Schemas, type Session } from "../api/client";
import { ClusterBar } from "../queue/ClusterBar";
import { mergedNotice } from "../queue/mergedNotice";
import { useCluster } from "../queue/useCluster";
import { useTray } from "../records/tray";
import { Empty } from "../ui/Empty";
import { useNotices } from "../ui/notices";
import { ProblemNote, ProblemPage } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { useKeys } from "../ui/useKeys";
import { CompareGrid } from "./CompareGrid";
import {
  type Comparison,
  readComparison,
  requestOf,
  withClearing,
  withoutRecord,
  writeComparison,
} from "./choices";
import { DecidedCluster } from "./DecidedCluster";
import { EvidencePanel } from "./EvidencePanel";
import { LinkedOffers } from "./LinkedOffers";
import { MergeSide } from "./MergeSide";
import { ControlTotals, RelatedMoves } from "./PlanPanel";
import { RowsBeside } from "./RowsBeside";

/** Records side by side, what a merge of them would do, and the merge. */
export function ComparePage({ map, session }: { map: MapView; session: Session }) {
  const { type: name = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const tray = useTray(name);
  const notices = useNotices();
  const comparison = readComparison(query);
  const cluster = useCluster(comparison, session, (fresh) =>
    setQuery(writeComparison(fresh), { replace: true }),
  );
  // What stands in the address, also before the page was drawn anew: keys may follow one another quickly.
  const latest = () => readComparison(new URLSearchParams(window.location.search));
  const change = (next: Comparison) => setQuery(writeComparison(next), { replace: true });
  const request = { ...requestOf(name, comparison), rule: cluster.rule };
  const planKey = ["plan", request];
  const planned = useQuery({
    queryKey: planKey,
    queryFn: () => api.plan(request),
    enabled: comparison.keys.length > 1 && !cluster.isPending,
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  // While no plan can be made the last one is still something to look at.
  const made = useRef<Plan | null>(null);
  if (planned.data) made.current = planned.data;
  const isOld = !planned.data && planned.error !== null;
  const latestPlan = planned.data ?? (isOld && made.current?.recordType === name ? made.current : undefined);
  // Many values are drawn in pieces, so that a key pressed meanwhile is answered first.
  const plan = useDeferredValue(latestPlan);

  const type = map.recordTypes.find((candidate) => candidate.name === name);
  const whyNot = !plan
    ? t`Loading the plan.`
    : isOld
      ? t`There is no plan; see above.`
      : planned.isPlaceholderData || plan !== latestPlan
        ? t`Updating the plan.`
        : session.role === "viewer"
          ? t`Your role has read-only access.`
          : plan.blockers.length > 0
            ? t`Blocked; see above.`
            : cluster.other
              ? t`Assigned to ${cluster.other}: take it over first.`
              : null;
  useKeys("compare", {
    takeSuggested: () => plan?.suggestion && change({ ...latest(), master: plan.suggestion.key }),
  });

  if (cluster.isReading) return <Reading what={t`the cluster`} rows={12} />;
  if (cluster.error)
    return (
      <ProblemPage title={t`Group ${comparison.cluster ?? ""}`} error={cluster.error} retry={cluster.retry} />
    );
  if (cluster.found && cluster.isDecided)
    return (
      <DecidedCluster
        cluster={cluster.found}
        decision={cluster.decision}
        comments={cluster.comments}
        session={session}
        next={cluster.next}
        back={cluster.back}
      />
    );
  if (!type || comparison.keys.length < 2) {
    return (
      <Empty title={t`Nothing to compare yet`}>
        <Trans>
          Tick two or more records in <Link to={`/records/${name}`}>the list</Link>, then compare them.
        </Trans>
      </Empty>
    );
  }
  const done = (entry: Schemas["EntryView"]) => {
    tray.clear();
    if (comparison.cluster === null) {
      const master = `/records/${name}/${encodeURIComponent(entry.summary.records[0]?.key ?? "")}`;
      navigate(master, { state: { done: entry.summary } });
      return;
    }
    notices.say(mergedNotice(entry.summary));
    void cluster.goOn();
  };
  return (
    <>
      <div className="page-head compare-head">
        <h1>
          <Trans>
            Compare {comparison.keys.length} {type.plural.toLowerCase()}
          </Trans>
        </h1>
        {cluster.found ? (
          <ClusterBar
            cluster={cluster.found}
            session={session}
            comments={cluster.comments}
            compared={comparison.keys}
            isClaiming={cluster.isClaiming}
            place={cluster.place}
            other={cluster.other}
            isDecided={cluster.isDecided}
            takeOver={() => cluster.found && cluster.takeOver.mutate(cluster.found)}
            goOn={cluster.goOn}
            next={cluster.next}
            previous={cluster.previous}
            skip={cluster.skip}
            back={cluster.back}
          />
        ) : (
          comparison.cluster === null && (
            <Link className="push" to={`/records/${name}`}>
              <Trans>Back to the list</Trans>
            </Link>
          )
        )}
      </div>
      {cluster.takeOver.error && <ProblemNote error={cluster.takeOver.error} />}
      {cluster.claimFailed && <ProblemNote error={cluster.claimFailed} retry={cluster.claimAgain} />}
      {planned.error && <ProblemNote error={planned.error} retry={() => planned.refetch()} />}
      {planned.error && comparison.linked.length + comparison.end.length > 0 && (
        <div className="note">
          <Button size="xs" variant="default" onClick={() => change({ ...latest(), linked: [], end: [] })}>
            <Trans>Remove linked merges and endings</Trans>
          </Button>
        </div>
      )}
      {!plan && !planned.error && <Reading what={t`the records`} rows={12} />}
      {plan && (
        <div className="compare-page">
          <div>
            <EvidencePanel
              type={name}
              master={comparison.master}
              others={comparison.keys.filter((key) => key !== comparison.master)}
            />
            <CompareGrid
              type={type}
              plan={plan}
              comparison={comparison}
              isOld={planned.isPlaceholderData}
              show={(show) => change({ ...latest(), show })}
              addRecord={(key) => change({ ...latest(), keys: [...comparison.keys, key] })}
              choose={(field, key) =>
                change({ ...latest(), choices: { ...latest().choices, [field]: { from: key } } })
              }
              make={(field, rule) =>
                change({ ...latest(), choices: { ...latest().choices, [field]: { rule } } })
              }
              typeIn={async (field, text) => {
                const next = { ...latest(), choices: { ...latest().choices, [field]: { typed: text } } };
                const fresh = { ...requestOf(name, next), rule: cluster.rule };
                queries.setQueryData(["plan", fresh], await api.plan(fresh));
                change(next);
              }}
              backToRule={(field) => {
                const { [field]: _, ...choices } = latest().choices;
                change({ ...latest(), choices });
              }}
              makeMaster={(key) => change({ ...latest(), master: key })}
              leaveOut={(key) => change(withoutRecord(latest(), key))}
            />
            <LinkedOffers
              plan={plan}
              linked={comparison.linked}
              change={(linked) => change({ ...latest(), linked })}
            />
            <RelatedMoves
              plan={plan}
              keepRunning={() => change({ ...latest(), end: [] })}
              exclude={{
                chosen: comparison.exclude,
                change: (reference, excluded) =>
                  change({
                    ...latest(),
                    exclude: excluded
                      ? [...latest().exclude, reference]
                      : comparison.exclude.filter((each) => each !== reference),
                  }),
              }}
            />
            <ControlTotals plan={plan} />
            <RowsBeside
              plan={plan}
              opened={comparison.rows}
              open={(rows) => setQuery(writeComparison({ ...latest(), rows }), { replace: true })}
            />
          </div>
          <MergeSide
            plan={plan}
            request={request}
            planKey={planKey}
            keptAs={`reason ${name} ${query.get("cluster") ?? query.get("key")}`}
            requireReason={type.requireReason}
            obstacle={whyNot}
            isDrawn={() => writeComparison(latest()).toString() === writeComparison(comparison).toString()}
            clear={(clearing) => change(withClearing(latest(), clearing))}
            done={done}
          />
        </div>
      )}
    </>
  );
}
