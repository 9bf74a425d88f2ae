import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Tabs } from "@mantine/core";
import { useSearchParams } from "react-router";
import type { MapReading, RecordTypeDetails } from "../api/client";
import { ruleInWords } from "../merge/choices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { failureOf } from "../ui/stale";
import { useMapReading } from "./useMapReading";

/** The map as the service read it, type by type, and what the database lacks for it. */
export function MapPanel() {
  const reading = useMapReading();
  const failure = failureOf(reading);
  if (failure) return <ProblemNote error={failure} retry={() => reading.refetch()} />;
  if (!reading.data) return <Reading what={t`the map`} rows={8} />;
  return <WholeMap reading={reading.data} />;
}

function WholeMap({ reading }: { reading: MapReading }) {
  const [query, setQuery] = useSearchParams();
  return (
    <section className="panel" aria-label={t`The map`}>
      <header>
        <h2>
          <Trans>The map</Trans>
        </h2>
        <span className="muted small">
          <Trans>as it was read when the service started</Trans>
        </span>
      </header>
      <Findings findings={reading.findings} />
      <Tabs
        value={query.get("type") ?? reading.recordTypes[0]?.name ?? null}
        onChange={(type) => type && setQuery({ type }, { replace: true })}
        keepMounted={false}
      >
        <Tabs.List>
          {reading.recordTypes.map((type) => (
            <Tabs.Tab key={type.name} value={type.name}>
              {type.plural}
            </Tabs.Tab>
          ))}
        </Tabs.List>
        {reading.recordTypes.map((type) => (
          <Tabs.Panel key={type.name} value={type.name}>
            <TypeReading type={type} />
          </Tabs.Panel>
        ))}
      </Tabs>
    </section>
  );
}

/** What the check of the map found; it goes on for a moment after the service has started. */
function Findings({ findings }: { findings: MapReading["findings"] }) {
  if (!findings)
    return (
      <p className="body muted">
        <Trans>Rights and data are still being checked …</Trans>
      </p>
    );
  if (findings.length === 0)
    return (
      <p className="body">
        <Trans>Its check found nothing risky.</Trans>
      </p>
    );
  return (
    <div className="body">
      <h3>
        <Trans>What its check found</Trans>
      </h3>
      <ul className="findings">
        {findings.map((each) => (
          <li key={`${each.line}|${each.message}`}>
            <strong>{each.severity}</strong>
            {each.line && (
              <span className="muted">
                {" "}
                <Trans>line {each.line}</Trans>
              </span>
            )}
            : {each.message} {each.remedy}
            {each.statement && <pre className="statement">{each.statement}</pre>}
          </li>
        ))}
      </ul>
    </div>
  );
}

function TypeReading({ type }: { type: RecordTypeDetails }) {
  const known = Object.entries(type.columns).map(([what, column]) => `${what}: ${column}`);
  return (
    <div className="map-type">
      <dl className="facts" style={{ marginBottom: 10 }}>
        <Fact title={t`Table`}>{type.table}</Fact>
        <Fact title={t`Key`}>{type.key.join(", ")}</Fact>
        <Fact title={t`A duplicate is`}>{type.retirement}</Fact>
        {known.length > 0 && <Fact title={t`Columns about the record`}>{known.join(", ")}</Fact>}
        {type.partition.length > 0 && (
          <Fact title={t`Compared only if the same`}>{type.partition.join(", ")}</Fact>
        )}
        {type.timeline && <Fact title={t`Timeline`}>{type.timeline}</Fact>}
        <Fact title={t`Reason`}>{type.requireReason ? t`required` : t`as one likes`}</Fact>
        {type.linked.length > 0 && <Fact title={t`Linked merges`}>{type.linked.join(", ")}</Fact>}
      </dl>
      <h3>
        <Trans>Checks</Trans>
      </h3>
      {type.checks.length === 0 && (
        <p className="muted">
          <Trans>None.</Trans>
        </p>
      )}
      <ul style={{ margin: "0 0 10px", paddingLeft: 18 }}>
        {type.checks.map((check) => (
          <li key={check}>{check}</li>
        ))}
      </ul>
      <Rows
        title={t`References`}
        heads={[t`What`, t`Table`, t`Columns`, t`Only where`, t`After a merge`, t`On conflict`, t`Index`]}
        rows={type.references.map((each) => [
          each.title,
          each.table,
          each.columns.join(", "),
          Object.entries(each.when)
            .map(([column, value]) => `${column} = ${value}`)
            .join(", "),
          each.policy + (each.mayExclude ? t`, may be left` : ""),
          each.collision,
          each.indexed ? "yes" : "none",
        ])}
      />
      <Rows
        title={t`Fields`}
        heads={[t`What`, t`Column`, t`Kind`, t`Survivorship`, t`Other values go to`]}
        rows={type.fields.map((each) => [
          each.title,
          each.column,
          each.kind,
          ruleInWords(each.rule),
          each.overflow.join(", "),
        ])}
      />
      {type.figures.length > 0 && (
        <Rows
          title={t`Figures`}
          heads={[t`What`, t`Of`, t`Is`, t`Column`, t`Control total`]}
          rows={type.figures.map((each) => [
            each.title,
            each.reference,
            each.operation,
            each.column ?? "",
            each.control ? "yes" : "",
          ])}
        />
      )}
    </div>
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

function Rows({ title, heads, rows }: { title: string; heads: string[]; rows: string[][] }) {
  return (
    <>
      <h3>{title}</h3>
      <div className="scroll" style={{ marginBottom: 10 }}>
        <table className="rows" aria-label={title}>
          <thead>
            <tr>
              {heads.map((head) => (
                <th key={head}>{head}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.join("|")}>
                {row.map((cell, at) => (
                  <td key={heads[at]}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
