import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type RecordType } from "../api/client";
import { Gauge } from "../queue/Gauge";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { Table } from "../ui/Table";
import { compareAddress } from "./tray";

const most = 5;

/** What may be a duplicate of a record, likeliest first. */
export function SimilarRecords({ type, id }: { type: RecordType; id: string }) {
  const similar = useQuery({
    queryKey: ["similar", type.name, id],
    queryFn: () => api.similar(type.name, id),
    staleTime: 30_000,
  });
  return (
    <section className="panel">
      <header>
        <h2>
          <Trans>Similar records</Trans>
        </h2>
      </header>
      {similar.error && <ProblemNote error={similar.error} retry={() => similar.refetch()} />}
      {similar.isPending && <Reading what={t`likely copies`} rows={2} />}
      {similar.data?.length === 0 && (
        <div className="body muted">
          <Trans>No similar records found.</Trans>
        </div>
      )}
      {similar.data && similar.data.length > 0 && (
        <Table
          rows={similar.data.slice(0, most)}
          keyOf={(pair) => pair.b}
          columns={[
            { kind: "short", cell: (pair) => <Gauge percent={pair.score} /> },
            {
              cell: (pair) => (
                <>
                  <Link to={`/records/${type.name}/${encodeURIComponent(pair.b)}`}>
                    {pair.b} {pair.labelB}
                  </Link>
                  <div className="muted">{pair.summary}</div>
                </>
              ),
            },
            {
              kind: "short",
              cell: (pair) => (
                <Link to={compareAddress(type.name, [id, pair.b])} aria-label={t`Compare with ${pair.b}`}>
                  <Trans>Compare</Trans>
                </Link>
              ),
            },
          ]}
        />
      )}
    </section>
  );
}
