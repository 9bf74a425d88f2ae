import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Tabs } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { api, type EntrySummary, type MapView, type RecordType, type Session } from "../api/client";
import { EntryTable } from "../history/EntryTable";
import { Empty } from "../ui/Empty";
import { figure, moment } from "../ui/format";
import { ProblemNote, ProblemPage } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { failureOf } from "../ui/stale";
import { useAddress } from "../ui/useAddress";
import { Value } from "../ui/Value";
import { RecordGroups } from "./RecordGroups";
import { RelatedRows } from "./RelatedRows";
import { SimilarRecords } from "./SimilarRecords";
import { useTray } from "./tray";

/** One record: values, figures, related rows, where its old keys were, and what became of it. */
export function RecordPage({ map, session }: { map: MapView; session: Session }) {
  const { type: name = "", key = "" } = useParams();
  const type = map.recordTypes.find((candidate) => candidate.name === name);
  if (!type)
    return (
      <Empty title={t`There is no record type “${name}”`}>
        <Trans>Open the records from the side bar, and choose a record type there.</Trans>
      </Empty>
    );
  return <Shown key={`${name} ${key}`} type={type} id={key} session={session} />;
}

function Shown({ type, id, session }: { type: RecordType; id: string; session: Session }) {
  const location = useLocation();
  const { query, set } = useAddress();
  const navigate = useNavigate();
  const tray = useTray(type.name);
  const done = (location.state as { done?: EntrySummary } | null)?.done;
  const record = useQuery({ queryKey: ["record", type.name, id], queryFn: () => api.record(type.name, id) });
  const history = useQuery({
    queryKey: ["record-history", type.name, id],
    queryFn: () => api.recordHistory(type.name, id),
  });
  const retired = history.data?.retired;
  const recordFailure = failureOf(record);
  // Drawn at once, so that nothing moves away under the pointer.
  const isReading = record.isPending || history.isPending;
  const groups = [...new Set(type.fields.map((field) => field.group))];
  const unmapped = Object.keys(record.data?.values ?? {}).filter((name) => name.startsWith("column:"));
  return (
    <>
      {done && (
        <div className="note done" role="status">
          <Trans>
            <strong>Merge {done.number} is done.</strong>{" "}
            {plural(done.records.length - 1, { one: "# duplicate", other: "# duplicates" })} merged into{" "}
            {done.records[0]?.key}, and{" "}
            {plural(done.rows, { one: "# related record", other: "# related records" })} moved.{" "}
            <Link to={`/history/${done.number}`}>Open the merge</Link>{" "}
            <Link to={`/history/${done.number}?back=true`}>Reverse merge</Link>
          </Trans>
        </div>
      )}
      {retired && (
        <div className="note warning">
          <strong>
            <Trans>Merged into</Trans>
          </strong>{" "}
          <Link to={`/records/${type.name}/${encodeURIComponent(retired.master)}`}>{retired.master}</Link> (
          <Link to={`/history/${retired.merge}`}>
            <Trans>merge {retired.merge}</Trans>
          </Link>
          ).
        </div>
      )}
      {recordFailure && (
        <ProblemPage title={`${type.title} ${id}`} error={recordFailure} retry={() => record.refetch()} />
      )}
      {!retired && <RecordGroups type={type.name} id={id} session={session} />}
      {isReading && <Reading what={t`the record`} rows={10} />}
      {record.data && !isReading && (
        <>
          <div className="page-head">
            <h1 dir="auto">{record.data.label}</h1>
            <span className="muted">
              {type.title} {record.data.key}
            </span>
            <Button
              className="push"
              variant="default"
              size="sm"
              disabled={Boolean(retired)}
              title={retired ? t`It was merged already.` : undefined}
              onClick={() => {
                tray.add({ key: id, label: record.data.label });
                navigate(`/records/${type.name}`);
              }}
            >
              <Trans>Find duplicates</Trans>
            </Button>
          </div>
          <div className="panel" style={{ marginBottom: 12 }}>
            <dl className="facts body">
              {type.figures.map((each) => (
                <div key={each.name}>
                  <dt>{each.title}</dt>
                  <dd>{figure(each.operation, record.data.figures[each.name]) || t`none`}</dd>
                </div>
              ))}
              <div>
                <dt>
                  <Trans>Created</Trans>
                </dt>
                <dd>{moment(record.data.created)}</dd>
              </div>
              <div>
                <dt>
                  <Trans>Changed</Trans>
                </dt>
                <dd>{moment(record.data.changed)}</dd>
              </div>
              <div>
                <dt>
                  <Trans>Source</Trans>
                </dt>
                <dd>{record.data.source}</dd>
              </div>
            </dl>
          </div>
          <div className="columns">
            <div className="stack">
              <section className="panel" aria-labelledby="values">
                <header>
                  <h2 id="values">
                    <Trans>Values</Trans>
                  </h2>
                </header>
                <div className="value-groups">
                  {groups.map((group) => (
                    <ValueGroup
                      key={group}
                      title={group ?? t`Fields`}
                      values={type.fields
                        .filter((field) => field.group === group)
                        .map((field) => [field.title, record.data.values[field.name]])}
                    />
                  ))}
                  {unmapped.length > 0 && (
                    <ValueGroup
                      title={t`Other columns`}
                      values={unmapped.map((name) => [
                        name.slice("column:".length),
                        record.data.values[name],
                      ])}
                    />
                  )}
                </div>
              </section>
              <section className="panel">
                <header>
                  <h2>
                    <Trans>Related records</Trans>
                  </h2>
                </header>
                <Tabs
                  value={query.get("rows") ?? type.references[0]?.name ?? null}
                  onChange={(rows) => rows && set({ rows })}
                  keepMounted={false}
                >
                  <Tabs.List>
                    {type.references.map((reference) => (
                      <Tabs.Tab key={reference.name} value={reference.name}>
                        {reference.title} ({record.data.counts[reference.name] ?? 0})
                      </Tabs.Tab>
                    ))}
                  </Tabs.List>
                  {type.references.map((reference) => (
                    <Tabs.Panel key={reference.name} value={reference.name}>
                      <RelatedRows type={type.name} record={id} reference={reference.name} />
                    </Tabs.Panel>
                  ))}
                </Tabs>
              </section>
            </div>
            <div className="stack">{!retired && <SimilarRecords type={type} id={id} />}</div>
          </div>
        </>
      )}
      <section className="panel" style={{ marginTop: 12 }}>
        <header>
          <h2>
            <Trans>History</Trans>
          </h2>
          {history.data && history.data.oldKeys.length > 0 && (
            <span className="muted">
              <Trans>
                Old keys that lead here: {history.data.oldKeys.map((forward) => forward.oldKey).join(", ")}
              </Trans>
            </span>
          )}
        </header>
        {history.error && <ProblemNote error={history.error} />}
        {history.data &&
          (history.data.entries.length > 0 ? (
            <EntryTable entries={history.data.entries} />
          ) : (
            <div className="body muted">
              <Trans>No merges yet.</Trans>
            </div>
          ))}
      </section>
    </>
  );
}

/** Fields of a record under their heading, each with its value. */
function ValueGroup({ title, values }: { title: string; values: [string, string | null | undefined][] }) {
  return (
    <table className="rows">
      <thead>
        <tr>
          <th colSpan={2} scope="colgroup">
            {title}
          </th>
        </tr>
      </thead>
      <tbody>
        {values.map(([name, value]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>
              <Value text={value} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
