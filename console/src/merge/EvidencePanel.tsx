import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Pair } from "../api/client";
import { Gauge } from "../queue/Gauge";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";

const marks: Record<string, string> = {
  "supports strongly": "+++",
  supports: "++",
  "supports slightly": "+",
  neutral: "·",
  "contradicts slightly": "−",
  contradicts: "−−",
  "contradicts strongly": "−−−",
};

/** The evidence for and against a match: each record compared with the master. */
export function EvidencePanel({ type, master, others }: { type: string; master: string; others: string[] }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const found = useQueries({
    queries: others.map((other) => ({
      queryKey: ["explanation", type, ...[master, other].sort()],
      queryFn: () => api.explain({ recordType: type, a: master, b: other, reason: "" }),
      staleTime: 30_000,
    })),
  });
  const shown = Math.max(0, others.indexOf(chosen ?? others[0] ?? ""));
  const pair = found[shown]?.data;
  const failed = found.find((each) => each.error)?.error;
  if (failed)
    return <ProblemNote error={failed} retry={() => found.forEach((each) => void each.refetch())} />;
  return (
    <section className="panel evidence" aria-label="Why they may be one">
      <header>
        <h2>Why they may be one</h2>
        {others.length > 1 && (
          <span role="tablist" aria-label="Beside the master" className="pairs">
            {others.map((other, at) => (
              <button
                key={other}
                type="button"
                role="tab"
                aria-selected={at === shown}
                onClick={() => setChosen(other)}
              >
                {master} and {other}
                {found[at]?.data ? <Gauge percent={found[at]?.data?.score ?? 0} /> : "…"}
              </button>
            ))}
          </span>
        )}
        {others.length === 1 && pair && <Gauge percent={pair.score} />}
      </header>
      {pair ? <PairEvidence pair={pair} /> : <Reading what="the evidence" rows={3} />}
    </section>
  );
}

/** The evidence about two records, what speaks for one party on one side, what against on the other. */
export function PairEvidence({ pair }: { pair: Pair }) {
  const side = (speaks: (weight: number) => boolean) => pair.evidence.filter((each) => speaks(each.weight));
  return (
    <div className="body sides">
      <Side title="For" evidence={side((weight) => weight >= 0)} none="Nothing speaks for it." />
      <Side title="Against" evidence={side((weight) => weight < 0)} none="Nothing speaks against it." />
      <div className="small muted">
        {pair.missing.length > 0 && (
          <p>Not compared, since a value is missing: {pair.missing.join(", ").toLowerCase()}.</p>
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
