import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type RecordType, type RuleTrial, type SamplePair } from "../api/client";
import { Gauge, percentOf } from "../queue/Gauge";
import { compareAddress } from "../records/tray";
import { Bars } from "../ui/Bars";
import { number } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { Table } from "../ui/Table";
import { changeRule, readRule, reviewOf, usual } from "./rule";

const mostSamples = 6;

/** What a rule would find among today's records, and what its thresholds do: they can be dragged. */
export function TrialPanel({
  type,
  text,
  replaces,
  change,
}: {
  type: RecordType;
  text: string;
  /** The name of the rule that it would replace, or null. */
  replaces: string | null;
  change: (text: string) => void;
}) {
  const [asked] = useDebouncedValue(text, 400);
  const [line, setLine] = useState<"review" | "automatic">("review");
  const trial = useQuery({
    queryKey: ["trial", type.name, asked, replaces],
    queryFn: ({ signal }) => api.tryRule(type.name, asked, replaces, signal),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  const rule = readRule(text);
  const found = trial.data;
  const counting = trial.isFetching || asked !== text;
  const lines =
    typeof rule === "string"
      ? null
      : { review: reviewOf(rule), automatic: rule.automatic ?? usual.automatic };
  const drag = (next: "review" | "automatic", percent: number) => {
    if (!lines) return;
    setLine(next);
    // One threshold does not go past the other.
    change(
      changeRule(
        text,
        next === "review"
          ? { review: Math.min(percent, lines.automatic) }
          : { automatic: Math.max(percent, lines.review) },
      ),
    );
  };
  return (
    <section className="panel" aria-label={t`What it would find`} aria-busy={counting}>
      <header>
        <h2>
          <Trans>What it would find today</Trans>
        </h2>
        <span className="muted small" role="status">
          {counting
            ? t`counting…`
            : found
              ? t`${plural(found.records, { one: "# record", other: "# records" })} compared`
              : ""}
        </span>
      </header>
      {trial.error && <ProblemNote error={trial.error} />}
      {!found && trial.isPending && <Reading what={t`what it would find`} rows={7} />}
      {found && lines && (
        <div className="body">
          <Counts trial={found} lines={lines} isOld={counting} />
          <div className="trial-chart">
            <Bars
              rows={found.bands
                .filter((band) => band.from >= 20)
                .map((band) => ({ name: String(band.from), values: [band.pairs] }))}
              series={[t`Pairs`]}
            >
              {(["review", "automatic"] as const).map((each) => (
                <div key={each} className={`cut ${each === "review" ? "lower" : "upper"}`}>
                  <span aria-hidden style={{ left: `${((lines[each] - 20) / 80) * 100}%` }}>
                    {each === "review" ? t`review` : t`certain`} {lines[each]} %
                  </span>
                  <input
                    type="range"
                    min={20}
                    max={100}
                    value={lines[each]}
                    aria-label={
                      each === "review" ? t`Review from, on the scale` : t`Certain from, on the scale`
                    }
                    aria-valuetext={t`${lines[each]} percent`}
                    onChange={(event) => drag(each, Number(event.currentTarget.value))}
                    onFocus={() => setLine(each)}
                  />
                </div>
              ))}
            </Bars>
          </div>
          <details>
            <summary>
              <Trans>The same as a table</Trans>
            </summary>
            <Table
              rows={found.bands.filter((band) => band.pairs > 0)}
              keyOf={(band) => band.from}
              columns={[
                { head: t`Score`, cell: ({ from, to }) => t`${from} to ${to} %` },
                { head: t`Pairs`, kind: "number", cell: (band) => number(band.pairs) },
              ]}
            />
          </details>
          <Samples
            title={t`Pairs at ${lines[line]} %`}
            none={t`No pairs.`}
            type={type.name}
            pairs={atLine(found, lines[line])}
            line={lines[line]}
          />
          <Samples
            title={t`${plural(found.gained, { one: "# pair", other: "# pairs" })} newly found`}
            type={type.name}
            pairs={found.gainedSamples}
          />
          <Samples
            title={t`${plural(found.lost, { one: "# pair", other: "# pairs" })} no longer found`}
            type={type.name}
            pairs={found.lostSamples}
          />
        </div>
      )}
    </section>
  );
}

/** The samples nearest to a threshold, highest score first. */
function atLine(trial: RuleTrial, percent: number): SamplePair[] {
  return trial.bands
    .flatMap((band) => band.samples)
    .sort((x, y) => Math.abs(x.score - percent) - Math.abs(y.score - percent))
    .slice(0, mostSamples)
    .sort((x, y) => y.score - x.score);
}

function Counts({
  trial,
  lines,
  isOld,
}: {
  trial: RuleTrial;
  lines: { review: number; automatic: number };
  isOld: boolean;
}) {
  // While a threshold is dragged, the service has said already what each would find.
  const level = isOld
    ? trial.levels.find((each) => each.percent === Math.round(lines.review))
    : { pairs: trial.pairs, clusters: trial.clusters, certain: null, expected: trial.expected };
  if (!level)
    return (
      <p className="muted">
        <Trans>Counting…</Trans>
      </p>
    );
  const certainLevel = isOld
    ? trial.levels.find((each) => each.percent === Math.round(lines.automatic))?.expected
    : trial.expectedOfCertain;
  const certain =
    level.certain === null ? trial.certain : (level.certain[Math.round(lines.automatic - lines.review)] ?? 0);
  const [right, found] = [percentOf(level.expected.precision), percentOf(level.expected.recall)];
  return (
    <div aria-live="polite">
      <dl className="facts">
        <div>
          <dt>
            <Trans>Pairs</Trans>
          </dt>
          <dd>{number(level.pairs)}</dd>
        </div>
        <div>
          <dt>
            <Trans>Groups</Trans>
          </dt>
          <dd>{number(level.clusters)}</dd>
        </div>
        <div>
          <dt>
            <Trans>To review</Trans>
          </dt>
          <dd>{number(level.clusters - certain)}</dd>
        </div>
        <div>
          <dt>
            <Trans>Certain</Trans>
          </dt>
          <dd>{number(certain)}</dd>
        </div>
      </dl>
      {level.pairs > 0 && (
        <p className="small">
          <Trans>
            Expected by the scores: {right} of the pairs are right, and {found} of the duplicates compared are
            among them
          </Trans>
          {certainLevel &&
            t`; of the certain pairs ${percentOf(certainLevel.precision)} and ${percentOf(certainLevel.recall)}`}
          .
        </p>
      )}
    </div>
  );
}

function Samples({
  title,
  none,
  type,
  pairs,
  line,
}: {
  title: string;
  none?: string;
  type: string;
  pairs: SamplePair[];
  line?: number;
}) {
  if (pairs.length === 0 && !none) return null;
  const below = line === undefined ? -1 : pairs.findIndex((pair) => pair.score < line);
  return (
    <>
      <h3 className="samples">{title}</h3>
      {pairs.length === 0 && <p className="muted small">{none}</p>}
      <Table
        className="samples"
        label={title}
        rows={pairs}
        keyOf={(pair) => `${pair.a} ${pair.b}`}
        mark={(_, at) => (at === below && at > 0 ? "under-line" : undefined)}
        columns={[
          { kind: "short", cell: (pair) => <Gauge percent={pair.score} /> },
          {
            cell: (pair) => (
              <>
                <Link to={compareAddress(type, [pair.a, pair.b])} dir="auto">
                  {pair.a} {pair.labelA} <span aria-hidden>|</span> {pair.b} {pair.labelB}
                </Link>
                <div className="muted small">
                  {pair.summary}
                  {line !== undefined && !pair.proposed && t`; what the rule asks for does not hold`}
                </div>
              </>
            ),
          },
        ]}
      />
    </>
  );
}
