import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type RecordType } from "../api/client";
import { PairEvidence } from "../merge/EvidencePanel";
import { Gauge } from "../queue/Gauge";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";

/** Why two records are proposed or not by the rules in force, also if no scan brought them together. */
export function ExplainPair({ type }: { type: RecordType }) {
  const [a, setA] = useState("");
  const [b, setB] = useState("");
  const [asked, setAsked] = useState<[string, string] | null>(null);
  const explained = useQuery({
    queryKey: ["explanation", type.name, ...(asked ?? [])],
    queryFn: () =>
      api.explain({ recordType: type.name, a: asked?.[0] ?? "", b: asked?.[1] ?? "", reason: "" }),
    enabled: asked !== null,
  });
  const pair = explained.data;
  const missing = a.trim() === "" || b.trim() === "";
  return (
    <section className="panel evidence" aria-label={t`Explain a pair`}>
      <header>
        <h2>
          <Trans>Explain a pair</Trans>
        </h2>
        <span className="muted small">
          <Trans>by the rules in force</Trans>
        </span>
      </header>
      <form
        className="body bar"
        onSubmit={(event) => {
          event.preventDefault();
          if (!missing) setAsked([a.trim(), b.trim()]);
        }}
      >
        <TextInput
          size="xs"
          placeholder={t`Key of one ${type.title.toLowerCase()}`}
          aria-label={t`Key of one record`}
          value={a}
          onChange={(event) => setA(event.currentTarget.value)}
        />
        <TextInput
          size="xs"
          placeholder={t`Key of the other`}
          aria-label={t`Key of the other record`}
          value={b}
          onChange={(event) => setB(event.currentTarget.value)}
        />
        <Button
          size="compact-md"
          type="submit"
          variant="default"
          disabled={missing}
          title={missing ? t`Enter both keys.` : undefined}
        >
          <Trans>Explain</Trans>
        </Button>
        {pair && (
          <>
            <Gauge percent={pair.score} />
            <strong>{pair.proposed ? t`proposed by “${pair.rule ?? ""}”` : t`not proposed`}</strong>
          </>
        )}
      </form>
      {explained.error && <ProblemNote error={explained.error} />}
      {explained.isLoading && <Reading what={t`the two records`} />}
      {pair && <PairEvidence pair={pair} />}
    </section>
  );
}
