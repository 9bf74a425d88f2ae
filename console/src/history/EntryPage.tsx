import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, type EntrySummary, type MapView, type Plan, type PlanField, type Session } from "../api/client";
import { because } from "../merge/choices";
import { PlanPanel } from "../merge/PlanPanel";
import { useDecisions } from "../queue/useDecisions";
import { Empty } from "../ui/Empty";
import { moment } from "../ui/format";
import { KeptValue } from "../ui/KeptValue";
import { ProblemPage } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { RoleMark } from "../ui/RoleMark";
import { failureOf } from "../ui/stale";
import { Table } from "../ui/Table";
import { Value } from "../ui/Value";
import { entryInWords, kindInWords } from "./EntryTable";
import { ReversalSteps } from "./ReversalSteps";
import { ReverseMerge } from "./ReverseMerge";
import { useProof } from "./useProof";

/** One merge or reversal, with every old value, and the way back. */
export function EntryPage({ map, session }: { map: MapView; session: Session }) {
  const number = Number(useParams().number);
  const entry = useQuery({
    queryKey: ["entry", number],
    queryFn: () => api.entry(number),
    enabled: number > 0,
  });
  const proof = useProof(number);
  if (!(number > 0))
    return (
      <Empty title={t`There is no such entry`}>
        <Trans>Entries are numbered from 1.</Trans>
      </Empty>
    );
  const failure = failureOf(entry);
  if (failure)
    return <ProblemPage title={t`Entry ${number}`} error={failure} retry={() => entry.refetch()} />;
  if (!entry.data) return <Reading what={t`the entry`} rows={10} />;
  const { summary, merge, reversal, catalog } = entry.data;
  const type = encodeURIComponent(summary.recordType);
  return (
    <>
      <p className="print-only">
        <Trans>
          {map.name}: from the history of merges, printed {moment(new Date().toISOString())}
        </Trans>
      </p>
      <div className="page-head">
        <h1>
          {kindInWords(summary.kind)} {summary.number}
        </h1>
        <span>{entryInWords(summary)}</span>
        <span className="push" />
        {summary.kind === "non-duplicates" && summary.isInEffect !== false && (
          <Reopen entry={summary} session={session} />
        )}
        {proof.button}
        <Button variant="default" size="compact-sm" onClick={() => window.print()}>
          <Trans>Print</Trans>
        </Button>
      </div>
      {proof.result}
      {summary.kind === "non-duplicates" && summary.isInEffect === false && (
        <div className="note warning">
          <Trans>
            <strong>Reopened:</strong> the records are proposed as duplicates again where a rule finds them.
          </Trans>
        </div>
      )}
      {summary.reversedBy && (
        <div className="note warning">
          <Trans>
            <strong>Reversed</strong> by{" "}
            <Link to={`/history/${summary.reversedBy}`}>reversal {summary.reversedBy}</Link>.
          </Trans>
        </div>
      )}
      <div className="panel" style={{ marginBottom: 12 }}>
        <dl className="facts body">
          <Fact title={t`When`}>
            {moment(summary.at)}
            <span className="print-only">{summary.at}</span>
          </Fact>
          <Fact title={t`Who`}>{summary.actor}</Fact>
          <Fact title={t`How`}>{summary.rule}</Fact>
          <Fact title={t`Reason`}>{summary.reason || t`none given`}</Fact>
          <Fact title={merge || reversal ? t`Master` : t`Record`}>
            <Link to={`/records/${type}/${encodeURIComponent(summary.records[0]?.key ?? "")}`}>
              {summary.records[0]?.key}
            </Link>
          </Fact>
          <Fact title={t`Rows`}>{summary.rows}</Fact>
          {summary.reverses && (
            <Fact title={summary.only ? t`Reverses in part` : t`Reverses`}>
              <Link to={`/history/${summary.reverses}`}>
                <Trans>merge {summary.reverses}</Trans>
              </Link>
            </Fact>
          )}
          {summary.linked && (
            <Fact title={t`Linked merges`}>
              {summary.linked.map((each) => (
                <Link key={each} to={`/history/${each}`} style={{ marginRight: 8 }}>
                  <Trans>merge {each}</Trans>
                </Link>
              ))}
            </Fact>
          )}
          {summary.linkedTo && (
            <Fact title={t`Linked to`}>
              <Link to={`/history/${summary.linkedTo}`}>
                <Trans>merge {summary.linkedTo}</Trans>
              </Link>
            </Fact>
          )}
          {catalog && <Fact title={t`Schema version`}>{catalog}</Fact>}
          <Fact title={t`Hash`}>
            <span className="screen-only" title={summary.hash}>
              {summary.hash.slice(0, 16)}…
            </span>
            <span className="print-only">{summary.hash}</span>
          </Fact>
        </dl>
      </div>
      {summary.kind === "merge" && !summary.reversedBy && (
        <ReverseMerge
          map={map}
          number={summary.number}
          session={session}
          needsReason={map.recordTypes.some((each) => each.name === summary.recordType && each.requireReason)}
        />
      )}
      {merge && (
        <>
          <OldValues plan={merge} />
          <PlanPanel plan={merge} done />
        </>
      )}
      {reversal && <ReversalSteps map={map} reversal={reversal} done />}
    </>
  );
}

/** Reopens what the entry marked as not duplicates. */
function Reopen({ entry, session }: { entry: EntrySummary; session: Session }) {
  const decisions = useDecisions();
  const [query, setQuery] = useSearchParams();
  const whyNot = session.role === "viewer" ? t`Your role has read-only access.` : null;
  const ask = () =>
    decisions.ask({ kind: "reopen", clusters: [{ id: 0, records: entry.records }], entry: entry.number });
  const isAsked = query.get("reopen") === "true";
  useEffect(() => {
    if (!isAsked) return;
    setQuery({}, { replace: true });
    if (whyNot === null) ask();
  });
  return (
    <>
      {decisions.panel}
      <span className="why">{whyNot}</span>
      <Button size="compact-sm" variant="default" disabled={whyNot !== null} onClick={ask}>
        <Trans>Reopen</Trans>
      </Button>
    </>
  );
}

function Fact({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div>
      <dt>{title}</dt>
      <dd>{children}</dd>
    </div>
  );
}

/** Every field of every record as it was, and what stayed. */
function OldValues({ plan }: { plan: Plan }) {
  // One long text is no reason to squeeze the other records; many records share the width as they need it.
  const width = plan.records.length <= 4 ? `${64 / (plan.records.length + 1)}%` : undefined;
  return (
    <section className="panel" style={{ marginBottom: 12 }}>
      <header>
        <h2>
          <Trans>All values before the merge</Trans>
        </h2>
        <span className="muted small">
          <Trans>● marks the value that was kept</Trans>
        </span>
      </header>
      <div className="scroll">
        <Table
          rows={plan.fields}
          keyOf={(field) => field.name}
          columns={[
            {
              head: t`Field`,
              kind: "muted",
              cell: (field) => (
                <>
                  <span className="sign" aria-hidden>
                    {field.differs ? "≠" : ""}
                  </span>
                  {field.title}
                </>
              ),
            },
            ...plan.records.map((record, index) => ({
              head: (
                <>
                  <RoleMark isMaster={index === 0} /> {record.key}
                </>
              ),
              width,
              cell: (field: PlanField) => (
                <KeptValue isKept={field.from === index}>
                  <Value text={field.values[index]} clip />
                </KeptValue>
              ),
            })),
            { head: t`Result`, width, cell: (field) => <Value text={field.value} clip /> },
            {
              head: t`Why`,
              cell: (field) => (
                <span className="muted small">
                  {field.kind === "unmapped"
                    ? t`not in the map: the master's`
                    : because(field, (index) => plan.records[index]?.key ?? "")}
                </span>
              ),
            },
          ]}
        />
      </div>
    </section>
  );
}
