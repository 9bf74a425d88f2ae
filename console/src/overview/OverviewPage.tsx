import { Progress } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, type MapView, type Overview } from "../api/client";
import { queueAddress } from "../queue/filter";
import { Chart } from "../ui/Chart";
import { Empty } from "../ui/Empty";
import { amount, counted, day, since } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";

/** What waits, by record type and confidence, and what was done lately. Each mark leads to what is behind it. */
export default function OverviewPage({ map }: { map: MapView }) {
  const overview = useQuery({
    queryKey: ["overview"],
    queryFn: api.overview,
    staleTime: 1_000,
    // Scans are told of as they go on; great merges are looked at.
    refetchInterval: (query) => ((query.state.data?.jobs.length ?? 0) > 0 ? 1_000 : 30_000),
  });
  if (overview.error) return <ProblemNote error={overview.error} retry={() => overview.refetch()} />;
  if (!overview.data) return <Reading what="what waits" rows={8} />;
  const { types, days, scans, jobs } = overview.data;
  const waiting = types.reduce((sum, type) => sum + type.open, 0);
  const title = (name: string) => map.recordTypes.find((type) => type.name === name)?.plural ?? name;
  return (
    <>
      <div className="page-head">
        <h1>Overview</h1>
        <span className="muted">{counted(waiting, "cluster waits", "clusters wait")}</span>
        <Link className="push" to={queueAddress()}>
          Go to the queue (g q)
        </Link>
      </div>
      {scans.map((scan) => (
        <Work
          key={scan.id}
          what={`${title(scan.recordType)} are being scanned:`}
          how={scan.phase}
          done={scan.done}
          total={scan.total}
          actor={scan.actor}
        />
      ))}
      {jobs.map((job) => (
        <Work
          key={job.id}
          what={job.kind === "merge" ? "A great merge is being done:" : "A great merge is being taken back:"}
          how="rows move"
          done={job.movedRows}
          total={job.totalRows}
          actor={job.actor}
        />
      ))}
      <section className="panel" style={{ marginBottom: 12 }}>
        <header>
          <h2>What waits</h2>
        </header>
        <div className="scroll">
          <table className="rows">
            <thead>
              <tr>
                <th>Record type</th>
                <th className="number">Clusters</th>
                <th className="number">Certain</th>
                <th className="number">To look at</th>
                <th className="number">In hand</th>
                <th className="number">Put off</th>
                <th className="number">Rows split over copies</th>
                <th className="number">Worth</th>
                <th className="number">Merged</th>
                <th className="number">Kept apart</th>
                <th>Last scan</th>
              </tr>
            </thead>
            <tbody>
              {types.map((type) => (
                <tr key={type.recordType}>
                  <td>
                    <Link to={`/records/${type.recordType}`}>{title(type.recordType)}</Link>
                  </td>
                  <Count to={queueAddress({ type: type.recordType })} count={type.open} />
                  <Count
                    to={queueAddress({ type: type.recordType, minScore: String(type.automatic ?? 100) })}
                    count={type.certain}
                  />
                  <Count
                    to={queueAddress({
                      type: type.recordType,
                      ...(type.automatic !== null && { maxScore: String(type.automatic) }),
                    })}
                    count={type.open - type.certain}
                  />
                  <Count to={queueAddress({ type: type.recordType })} count={type.assigned} />
                  <Count
                    to={queueAddress({ type: type.recordType, state: "postponed" })}
                    count={type.postponed}
                  />
                  <td className="number">{type.relatedRows.toLocaleString()}</td>
                  <td className="number">{type.amount === null ? "" : amount(type.amount)}</td>
                  <Count to={queueAddress({ type: type.recordType, state: "merged" })} count={type.merged} />
                  <Count
                    to={queueAddress({ type: type.recordType, state: "non-duplicates" })}
                    count={type.nonDuplicates}
                  />
                  <td>{type.scannedAt ? since(type.scannedAt) : <span className="muted">never</span>}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      <div className="columns even">
        {types
          .filter((type) => type.open > 0)
          .map((type) => (
            <Histogram key={type.recordType} type={type} title={title(type.recordType)} />
          ))}
        <section className="panel">
          <header>
            <h2>Done in the last thirty days</h2>
            <Link className="push small" to="/history">
              History
            </Link>
          </header>
          {days.length === 0 ? (
            <Empty title="Nothing yet">Merges, reversals and decisions will stand here.</Empty>
          ) : (
            <div className="body">
              <Chart
                rows={days.map((each) => ({
                  name: day(each.day),
                  values: {
                    Merged: each.merged,
                    "Kept apart": each.nonDuplicates,
                    "Taken back": each.reversed,
                  },
                }))}
                series={["Merged", "Kept apart", "Taken back"]}
              />
              <table className="rows">
                <thead>
                  <tr>
                    <th>Day (UTC)</th>
                    <th className="number">Merged</th>
                    <th className="number">Kept apart</th>
                    <th className="number">Taken back</th>
                  </tr>
                </thead>
                <tbody>
                  {[...days]
                    .reverse()
                    .slice(0, 7)
                    .map((each) => (
                      <tr key={each.day}>
                        <td>{day(each.day)}</td>
                        <td className="number">{each.merged}</td>
                        <td className="number">{each.nonDuplicates}</td>
                        <td className="number">{each.reversed}</td>
                      </tr>
                    ))}
                </tbody>
              </table>
            </div>
          )}
        </section>
      </div>
    </>
  );
}

/** Something at work, and how far it has come. */
function Work({
  what,
  how,
  done,
  total,
  actor,
}: {
  what: string;
  how: string;
  done: number;
  total: number;
  actor: string;
}) {
  return (
    <div className="note work" role="status">
      <span>
        <strong>{what}</strong> {how}
        {total > 0 && `, ${done.toLocaleString()} of ${total.toLocaleString()}`}. Asked for by {actor}.
      </span>
      <Progress
        aria-label={`${what} ${how}`}
        value={total > 0 ? (100 * done) / total : 100}
        animated={total === 0}
        style={{ flex: 1 }}
      />
    </div>
  );
}

function Count({ to, count }: { to: string; count: number }) {
  return (
    <td className="number">
      {count === 0 ? <span className="muted">0</span> : <Link to={to}>{count.toLocaleString()}</Link>}
    </td>
  );
}

type TypeOverview = Overview["types"][number];

/** How sure the clusters of a type are, with the thresholds drawn in, and the same numbers as a table. */
function Histogram({ type, title }: { type: TypeOverview; title: string }) {
  const navigate = useNavigate();
  const first = type.bands.findIndex((band) => band.clusters > 0);
  const bands = type.bands.slice(Math.min(first, Math.floor(type.review / 5)));
  const behind = (from: number, to: number) =>
    queueAddress({ type: type.recordType, minScore: String(from), maxScore: String(to) });
  const line = (percent: number, what: string) => {
    const from = Math.min(95, Math.floor(percent / 5) * 5);
    return { at: String(from), along: (percent - from) / 5, label: `${what} ${percent} %` };
  };
  const lines = [
    line(type.review, "review"),
    ...(type.automatic === null ? [] : [line(type.automatic, "certain")]),
  ];
  return (
    <section className="panel">
      <header>
        <h2>{title} by confidence</h2>
      </header>
      <div className="body">
        <Chart
          rows={bands.map((each) => ({ name: String(each.from), values: { Clusters: each.clusters } }))}
          series={["Clusters"]}
          lines={lines}
          open={(row) => navigate(behind(Number(row.name), Number(row.name) + 5))}
        />
        <details>
          <summary>The same as a table</summary>
          <table className="rows">
            <thead>
              <tr>
                <th>Confidence</th>
                <th className="number">Clusters</th>
              </tr>
            </thead>
            <tbody>
              {bands.map((band) => (
                <tr key={band.from}>
                  <td>
                    {band.from} to {band.to} %
                  </td>
                  <Count to={behind(band.from, band.to)} count={band.clusters} />
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      </div>
    </section>
  );
}
