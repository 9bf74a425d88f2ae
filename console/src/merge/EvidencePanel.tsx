import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, NativeSelect } from "@mantine/core";
import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Pair } from "../api/client";
import { Gauge } from "../queue/Gauge";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { useFolded } from "../ui/useFolded";

const marks: Record<string, string> = {
  "supports strongly": "+++",
  supports: "++",
  "supports slightly": "+",
  neutral: "·",
  "contradicts slightly": "−",
  contradicts: "−−",
  "contradicts strongly": "−−−",
};

/** Up to this many pairs are explained at once; of more, only the one that is looked at. */
const mostAtOnce = 8;

/** The evidence in a line: what speaks most for a match, and what against. */
function inShort(pair: Pair): string {
  const supporting = pair.evidence.filter((each) => each.weight > 0).map((each) => each.text);
  const against = pair.evidence.filter((each) => each.weight < 0).map((each) => each.text);
  const contradictions =
    against.length === 0 ? t`nothing contradicts` : t`contradicting: ${against.slice(0, 2).join(", ")}`;
  return `${supporting.slice(0, 3).join(", ") || t`no supporting evidence`}; ${contradictions}`;
}

/** The evidence for and against a match: each record compared with the master; a line, which opens. */
export function EvidencePanel({ type, master, others }: { type: string; master: string; others: string[] }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [isOpen, fold] = useFolded("evidence");
  const shown = Math.max(0, others.indexOf(chosen ?? others[0] ?? ""));
  const found = useQueries({
    queries: others.map((other, at) => ({
      queryKey: ["explanation", type, ...[master, other].sort()],
      queryFn: () => api.explain({ recordType: type, a: master, b: other, reason: "" }),
      staleTime: 30_000,
      enabled: at === shown || others.length <= mostAtOnce,
    })),
  });
  const pair = found[shown]?.data;
  const failed = found.find((each) => each.error)?.error;
  if (failed)
    return <ProblemNote error={failed} retry={() => found.forEach((each) => void each.refetch())} />;
  return (
    <section className="panel evidence" aria-label={t`Why they look like duplicates`}>
      <header>
        <h2>
          <Trans>Why they look like duplicates</Trans>
        </h2>
        {others.length > mostAtOnce && (
          <NativeSelect
            size="xs"
            aria-label={t`Compared with the master`}
            value={others[shown]}
            data={others.map((other) => ({ value: other, label: t`${master} and ${other}` }))}
            onChange={(event) => setChosen(event.currentTarget.value)}
          />
        )}
        {others.length > 1 && others.length <= mostAtOnce && (
          <span role="tablist" aria-label={t`Compared with the master`} className="pairs">
            {others.map((other, at) => (
              <button
                key={other}
                type="button"
                role="tab"
                aria-selected={at === shown}
                onClick={() => setChosen(other)}
              >
                <Trans>
                  {master} and {other}
                </Trans>
                {found[at]?.data ? <Gauge percent={found[at]?.data?.score ?? 0} /> : "…"}
              </button>
            ))}
          </span>
        )}
        {(others.length === 1 || others.length > mostAtOnce) && pair && <Gauge percent={pair.score} />}
        <span className="muted in-short">{pair ? inShort(pair) : t`Loading…`}</span>
        <Button className="push" size="compact-xs" variant="default" aria-expanded={isOpen} onClick={fold}>
          {isOpen ? t`Hide evidence` : t`Show evidence`}
        </Button>
      </header>
      {isOpen && (pair ? <PairEvidence pair={pair} /> : <Reading what={t`the evidence`} rows={3} />)}
    </section>
  );
}

/** The evidence about two records, what speaks for one party on one side, what against on the other. */
export function PairEvidence({ pair }: { pair: Pair }) {
  const side = (speaks: (weight: number) => boolean) => pair.evidence.filter((each) => speaks(each.weight));
  return (
    <div className="body sides">
      <Side title={t`Supports`} evidence={side((weight) => weight >= 0)} none={t`No supporting evidence.`} />
      <Side
        title={t`Contradicts`}
        evidence={side((weight) => weight < 0)}
        none={t`No contradicting evidence.`}
      />
      <div className="small muted">
        {pair.missing.length > 0 && (
          <p>
            <Trans>Not compared, since a value is missing: {pair.missing.join(", ").toLowerCase()}.</Trans>
          </p>
        )}
        {pair.notes.map((note) => (
          <p key={note}>{note}</p>
        ))}
      </div>
    </div>
  );
}

function Side({ title, evidence, none }: { title: string; evidence: Pair["evidence"]; none: string }) {
  return (
    <div>
      <h3>{title}</h3>
      {evidence.length === 0 && <span className="muted">{none}</span>}
      <ul className={evidence.length > 3 ? "many" : undefined}>
        {evidence.map((each) => (
          <li key={each.name}>
            <span className="mark" aria-hidden>
              {marks[each.strength] ?? "·"}
            </span>
            {each.text} <span className="muted small">{each.strength}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
