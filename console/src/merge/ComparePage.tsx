import { Button, NativeSelect, TextInput } from "@mantine/core";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, type Job, type MapView, type Plan, Refused, type Session } from "../api/client";
import { ClusterBar } from "../queue/ClusterBar";
import { useCluster } from "../queue/useCluster";
import { useTray } from "../records/tray";
import { Empty } from "../ui/Empty";
import { counted } from "../ui/format";
import { JobBar } from "../ui/JobBar";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refreshAll } from "../ui/refresh";
import { useKept } from "../ui/useKept";
import { useKeys } from "../ui/useKeys";
import { AddRecord } from "./AddRecord";
import { CompareGrid } from "./CompareGrid";
import {
  type Comparison,
  readComparison,
  requestOf,
  type Shown,
  ways,
  withClearing,
  withoutRecord,
  writeComparison,
} from "./choices";
import { DecidedCluster } from "./DecidedCluster";
import { EvidencePanel } from "./EvidencePanel";
import { LinkedOffers } from "./LinkedOffers";
import { PlanPanel, planInShort } from "./PlanPanel";
import { RowsBeside } from "./RowsBeside";

/** Records side by side, what a merge of them would do, and the merge. */
export function ComparePage({ map, session }: { map: MapView; session: Session }) {
  const { type: name = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const tray = useTray(name);
  const [keptReason, setReason, forgetReason] = useKept(
    `reason ${name} ${query.get("cluster") ?? query.get("key")}`,
  );
  const reason = keptReason ?? "";
  const [job, setJob] = useState<Job | null>(null);
  const [stale, setStale] = useState<string[] | null>(null);
  const reasonInput = useRef<HTMLInputElement>(null);
  const requestKey = useRef({ fingerprint: "", key: "" });

  const notices = useNotices();
  const comparison = readComparison(query);
  const cluster = useCluster(comparison, session, (fresh) =>
    setQuery(writeComparison(fresh), { replace: true }),
  );
  // What stands in the address, also before the page was drawn anew: keys may follow one another quickly.
  const latest = () => readComparison(new URLSearchParams(window.location.search));
  const change = (next: Comparison) => {
    setStale(null);
    merge.reset();
    setQuery(writeComparison(next), { replace: true });
  };
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
  const plan = planned.data ?? (isOld && made.current?.recordType === name ? made.current : undefined);

  const merge = useMutation({
    mutationFn: (shown: Plan) => {
      // One key for one plan: should the answer get lost, the same click does not merge twice.
      if (requestKey.current.fingerprint !== shown.fingerprint)
        requestKey.current = { fingerprint: shown.fingerprint, key: crypto.randomUUID() };
      return api.merge(
        { plan: request, fingerprint: shown.fingerprint, reason: reason.trim(), dryRun: false },
        requestKey.current.key,
        setJob,
      );
    },
    onSettled: () => setJob(null),
    onSuccess: (entry) => {
      tray.clear();
      forgetReason();
      const master = `/records/${name}/${encodeURIComponent(entry.summary.records[0]?.key ?? "")}`;
      if (comparison.cluster === null) navigate(master, { state: { done: entry.summary } });
      else {
        notices.say({
          text: `Merge ${entry.summary.number} is done: ${counted(entry.summary.rows, "related record", "related records")} moved to ${entry.summary.records[0]?.label}.`,
          links: [
            { to: master, text: "Open the master" },
            { to: `/history/${entry.summary.number}`, text: "Open the merge" },
            { to: `/history/${entry.summary.number}?back=true`, text: "Reverse merge" },
          ],
        });
        void cluster.goOn();
      }
      void refreshAll(queries);
    },
    onError: (error) => {
      if (error instanceof Refused && error.problem.plan) {
        setStale(error.problem.details);
        queries.setQueryData(planKey, error.problem.plan);
      }
    },
  });

  const type = map.recordTypes.find((candidate) => candidate.name === name);
  const whyNot = !plan
    ? "Loading the plan."
    : isOld
      ? "There is no plan; see above."
      : planned.isPlaceholderData
        ? "Updating the plan."
        : plan.blockers.length > 0
          ? "Blocked; see above."
          : session.role === "viewer"
            ? "Your role has read-only access."
            : cluster.other
              ? `Assigned to ${cluster.other}: take it over first.`
              : type?.requireReason && reason.trim() === ""
                ? "A reason is required."
                : null;
  const submit = () => {
    if (merge.isPending) return;
    // A choice that was made in this very moment is not in the plan that is shown.
    const isDrawn = writeComparison(latest()).toString() === writeComparison(comparison).toString();
    const obstacle = isDrawn ? whyNot : "Updating the plan.";
    if (plan && obstacle === null) {
      notices.clear();
      merge.mutate(plan);
    } else notices.say({ text: `Not merged. ${obstacle}` });
  };
  useKeys({
    "Ctrl+Enter": submit,
    d: () =>
      change({
        ...latest(),
        show: ways[(ways.indexOf(comparison.show) + 1) % ways.length] ?? "differences",
      }),
    s: () => plan?.suggestion && change({ ...latest(), master: plan.suggestion.key }),
  });

  if (cluster.isReading) return <Reading what="the cluster" rows={12} />;
  if (cluster.error) return <ProblemNote error={cluster.error} retry={cluster.retry} />;
  if (cluster.found && cluster.isDecided)
    return (
      <DecidedCluster
        cluster={cluster.found}
        decision={cluster.decision}
        session={session}
        next={cluster.next}
        back={cluster.back}
      />
    );
  if (!type || comparison.keys.length < 2) {
    return (
      <Empty title="Nothing to compare yet">
        Tick two or more records in <Link to={`/records/${name}`}>the list</Link>, then compare them.
      </Empty>
    );
  }
  return (
    <>
      <div className="page-head">
        <h1>
          Compare {comparison.keys.length} {type.plural.toLowerCase()}
        </h1>
        <NativeSelect
          size="xs"
          aria-label="Fields shown (d)"
          value={comparison.show}
          data={[
            { value: "differences", label: "Differences (d)" },
            { value: "all", label: "All fields (d)" },
            { value: "gaps", label: "Gaps (d)" },
          ]}
          onChange={(event) => change({ ...latest(), show: event.currentTarget.value as Shown })}
        />
        <AddRecord
          type={type}
          keys={comparison.keys}
          add={(key) => change({ ...latest(), keys: [...comparison.keys, key] })}
        />
        {comparison.cluster === null && (
          <Link className="push" to={`/records/${name}`}>
            Back to the list
          </Link>
        )}
      </div>
      {cluster.takeOver.error && <ProblemNote error={cluster.takeOver.error} />}
      {cluster.claimFailed && <ProblemNote error={cluster.claimFailed} retry={cluster.claimAgain} />}
      {cluster.found && (
        <ClusterBar
          cluster={cluster.found}
          amountTitle={type.amountTitle ?? null}
          session={session}
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
      )}
      {planned.error && <ProblemNote error={planned.error} retry={() => planned.refetch()} />}
      {planned.error && comparison.linked.length + comparison.end.length > 0 && (
        <div className="note">
          <Button size="xs" variant="default" onClick={() => change({ ...latest(), linked: [], end: [] })}>
            Remove linked merges and endings
          </Button>
        </div>
      )}
      {stale && (
        <div className="note warning" role="alert">
          <strong>Records changed while you worked.</strong> Review the updated plan; your choices are kept.
          <ul>
            {stale.map((each) => (
              <li key={each}>{each}</li>
            ))}
          </ul>
        </div>
      )}
      {merge.error && !stale && <ProblemNote error={merge.error} />}
      {plan?.blockers.map((blocker) => (
        <div key={blocker.message} className="note blocker">
          <strong>Blocked:</strong>
          {blocker.message}{" "}
          {blocker.clearings ? (
            blocker.clearings.map((clearing) => (
              <Button
                key={`${clearing.kind} ${clearing.name}`}
                size="compact-sm"
                variant="default"
                ml={6}
                onClick={() => change(withClearing(latest(), clearing))}
              >
                {clearing.title}
              </Button>
            ))
          ) : (
            <span className="muted">To clear it: {blocker.remedy}</span>
          )}
        </div>
      ))}
      {plan && plan.warnings.length > 0 && (
        <div className="note warning minds">
          <strong>Warning:</strong>
          <ul>
            {plan.warnings.map((warning) => (
              <li key={warning}>{warning}</li>
            ))}
          </ul>
        </div>
      )}
      {plan && (
        <EvidencePanel
          type={name}
          master={comparison.master}
          others={comparison.keys.filter((key) => key !== comparison.master)}
        />
      )}
      {!plan && !planned.error && <Reading what="the records" rows={12} />}
      {plan && (
        <>
          <div
            className={comparison.keys.length > 8 ? "panel scroll" : "panel"}
            aria-busy={planned.isPlaceholderData}
            style={{ marginBottom: 12 }}
          >
            <CompareGrid
              type={type}
              plan={plan}
              comparison={comparison}
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
          </div>
          <LinkedOffers
            plan={plan}
            linked={comparison.linked}
            change={(linked) => change({ ...latest(), linked })}
          />
          <RowsBeside
            plan={plan}
            opened={comparison.rows}
            open={(rows) => setQuery(writeComparison({ ...latest(), rows }), { replace: true })}
          />
          <PlanPanel
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
          <section className="tray" aria-label="Merge">
            {job ? (
              <JobBar job={job} what="Merging" />
            ) : (
              <span aria-live="polite">
                <strong>{planInShort(plan)}.</strong>
              </span>
            )}
            <TextInput
              ref={reasonInput}
              aria-label="Reason"
              placeholder={type.requireReason ? "Reason (required)" : "Reason (optional, for the history)"}
              required={type.requireReason}
              style={{ flex: 1, maxWidth: 420 }}
              value={reason}
              maxLength={2000}
              onChange={(event) => setReason(event.currentTarget.value)}
            />
            <span className="push why">{whyNot ?? ""}</span>
            <Button onClick={submit} disabled={whyNot !== null} loading={merge.isPending}>
              Merge (Ctrl+Enter)
            </Button>
          </section>
        </>
      )}
    </>
  );
}
