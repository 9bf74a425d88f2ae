import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type RecordType, type Schemas, type Session } from "../api/client";
import { entryInWords } from "../history/EntryTable";
import { Gauge, percentOf } from "../queue/Gauge";
import { useDecisions } from "../queue/useDecisions";
import { compareAddress } from "../records/tray";
import { Empty } from "../ui/Empty";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { failureOf } from "../ui/stale";
import { Table } from "../ui/Table";

type Learning = Schemas["LearningView"];

const inBits = (bits: number) => `${bits > 0 ? "+" : "−"}${Math.abs(bits).toFixed(1)}`;

/** What the last scan learned from decisions, which of them are doubtful, and what had best be decided next. */
export function LearningPanel({ type, session }: { type: RecordType; session: Session }) {
  const read = useQuery({ queryKey: ["learning", type.name], queryFn: () => api.learning(type.name) });
  const failure = failureOf(read);
  if (failure) return <ProblemNote error={failure} retry={() => read.refetch()} />;
  if (!read.data) return <Reading what={t`what was learned`} rows={8} />;
  const learning = read.data;
  if (learning.scan === null || learning.scan === undefined)
    return (
      <Empty title={t`Nothing is learned yet`}>
        <Trans>
          A scan learns from the merges and decisions before it.{" "}
          <Link to="/">Start one from the overview.</Link>
        </Trans>
      </Empty>
    );
  const merged = plural(learning.merged, { one: "# merged pair", other: "# merged pairs" });
  const marked = plural(learning.notDuplicates, {
    one: "# pair marked as not duplicates",
    other: "# pairs marked as not duplicates",
  });
  return (
    <div className="rules">
      <div className="rules-found">
        <ToDecide type={type} learning={learning} session={session} />
      </div>
      <div className="rules-found">
        <section className="panel" aria-label={t`What was learned`}>
          <header>
            <h2>
              <Trans>What was learned</Trans>
            </h2>
            <span className="muted small">{learning.at ? moment(learning.at) : ""}</span>
          </header>
          <div className="body">
            <p>
              <Trans>
                From {merged} and {marked}.
              </Trans>
            </p>
            {learning.weights.length === 0 ? (
              <p className="muted small">
                <Trans>No finding counts differently by half a bit or more.</Trans>
              </p>
            ) : (
              <Table
                label={t`What counts differently`}
                rows={learning.weights}
                keyOf={(weight) => `${weight.title} ${weight.words}`}
                columns={[
                  {
                    kind: "number",
                    head: t`Bits`,
                    title: t`One more bit doubles the odds that two records are the same.`,
                    cell: (weight) => inBits(weight.change),
                  },
                  { head: t`Finding`, cell: (weight) => weight.words },
                  { head: t`Compared`, kind: "muted", cell: (weight) => weight.title },
                ]}
              />
            )}
          </div>
        </section>
        <Doubtful learning={learning} />
      </div>
    </div>
  );
}

function ToDecide({ type, learning, session }: { type: RecordType; learning: Learning; session: Session }) {
  const decisions = useDecisions();
  const mayNot = session.role === "viewer" ? t`Your role has read-only access.` : undefined;
  return (
    <section className="panel" aria-label={t`What to decide next`}>
      <header>
        <h2>
          <Trans>What to decide next</Trans>
        </h2>
        <span className="muted small">
          <Trans>these teach the next scan most</Trans>
        </span>
      </header>
      <div className="body">
        {learning.toDecide.length === 0 ? (
          <p className="muted small">
            <Trans>No pair is uncertain enough to teach anything. The next scan looks again.</Trans>
          </p>
        ) : (
          <Table
            className="samples"
            label={t`What to decide next`}
            rows={learning.toDecide}
            keyOf={(pair) => `${pair.a} ${pair.b}`}
            columns={[
              { kind: "short", cell: (pair) => <Gauge percent={pair.score} /> },
              {
                cell: (pair) => (
                  <>
                    <Link to={compareAddress(type.name, [pair.a, pair.b])} dir="auto">
                      {pair.a} {pair.labelA} <span aria-hidden>|</span> {pair.b} {pair.labelB}
                    </Link>
                    <div className="muted small">{pair.summary}</div>
                  </>
                ),
              },
              {
                kind: "short",
                cell: (pair) => (
                  <Button
                    size="compact-xs"
                    variant="default"
                    disabled={mayNot !== undefined}
                    title={mayNot}
                    aria-label={t`Mark ${pair.a} and ${pair.b} as not duplicates`}
                    onClick={() =>
                      decisions.ask({
                        kind: "non-duplicates",
                        pairOf: type.name,
                        clusters: [
                          {
                            id: 0,
                            records: [
                              { key: pair.a, label: pair.labelA },
                              { key: pair.b, label: pair.labelB },
                            ],
                          },
                        ],
                      })
                    }
                  >
                    <Trans>Not duplicates</Trans>
                  </Button>
                ),
              },
            ]}
          />
        )}
      </div>
      {decisions.panel}
    </section>
  );
}

function Doubtful({ learning }: { learning: Learning }) {
  return (
    <section className="panel" aria-label={t`Doubtful decisions`}>
      <header>
        <h2>
          <Trans>Doubtful decisions</Trans>
        </h2>
        <span className="muted small">
          <Trans>all others contradict them</Trans>
        </span>
      </header>
      <div className="body">
        {learning.doubtful.length === 0 ? (
          <p className="muted small">
            <Trans>None.</Trans>
          </p>
        ) : (
          <Table
            label={t`Doubtful decisions`}
            rows={learning.doubtful}
            keyOf={(each) => each.entry.number}
            columns={[
              {
                head: t`Entry`,
                kind: "short",
                cell: (each) => <Link to={`/history/${each.entry.number}`}>{each.entry.number}</Link>,
              },
              {
                head: t`What`,
                cell: (each) => (
                  <>
                    <span dir="auto">{entryInWords(each.entry)}</span>
                    <div className="small" dir="auto">
                      {each.entry.records.map((record) => record.label).join(" | ")}
                    </div>
                    <div className="muted small">
                      {each.entry.actor}
                      {each.entry.reason && `: ${each.entry.reason}`}
                    </div>
                  </>
                ),
              },
              {
                head: t`Score now`,
                kind: "number",
                title: t`The score of its two records that contradict most, after all decisions`,
                cell: (each) => percentOf(each.score),
              },
            ]}
          />
        )}
      </div>
    </section>
  );
}
