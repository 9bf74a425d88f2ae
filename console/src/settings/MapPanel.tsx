import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Tabs } from "@mantine/core";
import type { MapReading, RecordTypeDetails } from "../api/client";
import { ruleInWords } from "../merge/choices";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { failureOf } from "../ui/stale";
import { type Column, Table } from "../ui/Table";
import { useAddress } from "../ui/useAddress";
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
  const { query, set } = useAddress();
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
        onChange={(type) => type && set({ type })}
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
      <Listed
        title={t`References`}
        rows={type.references}
        columns={[
          { head: t`What`, cell: (each) => each.title },
          { head: t`Table`, cell: (each) => each.table },
          { head: t`Columns`, cell: (each) => each.columns.join(", ") },
          {
            head: t`Only where`,
            cell: (each) =>
              Object.entries(each.when)
                .map(([column, value]) => `${column} = ${value}`)
                .join(", "),
          },
          {
            head: t`After a merge`,
            cell: (each) => (each.mayExclude ? t`${each.policy}, may be left` : each.policy),
          },
          { head: t`On conflict`, cell: (each) => each.collision },
          { head: t`Index`, cell: (each) => (each.indexed ? t`yes` : t`none`) },
        ]}
      />
      <Listed
        title={t`Fields`}
        rows={type.fields}
        columns={[
          { head: t`What`, cell: (each) => each.title },
          { head: t`Column`, cell: (each) => each.column },
          { head: t`Kind`, cell: (each) => each.kind },
          { head: t`Survivorship`, cell: (each) => ruleInWords(each.rule) },
          { head: t`Other values go to`, cell: (each) => each.overflow.join(", ") },
        ]}
      />
      {type.figures.length > 0 && (
        <Listed
          title={t`Figures`}
          rows={type.figures}
          columns={[
            { head: t`What`, cell: (each) => each.title },
            { head: t`Of`, cell: (each) => each.reference },
            { head: t`Is`, cell: (each) => each.operation },
            { head: t`Column`, cell: (each) => each.column ?? "" },
            { head: t`Control total`, cell: (each) => (each.control ? t`yes` : "") },
          ]}
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

function Listed<Row>({ title, rows, columns }: { title: string; rows: Row[]; columns: Column<Row>[] }) {
  return (
    <>
      <h3>{title}</h3>
      <div className="scroll" style={{ marginBottom: 10 }}>
        <Table label={title} rows={rows} columns={columns} keyOf={(_, at) => at} />
      </div>
    </>
  );
}
