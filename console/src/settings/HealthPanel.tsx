import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { useMapReading } from "./useMapReading";

/** Whether the service is well, and what it works on. */
export function HealthPanel() {
  const health = useQuery({ queryKey: ["health"], queryFn: api.health, staleTime: 0 });
  const reading = useMapReading();
  return (
    <section className="panel" aria-label={t`Health`}>
      <dl className="facts body">
        <div>
          <dt>
            <Trans>Service</Trans>
          </dt>
          <dd>
            {health.data
              ? health.data.status === "ok"
                ? t`works`
                : t`works, but its database does not answer`
              : health.error
                ? t`cannot be reached`
                : "…"}
          </dd>
        </div>
        <div>
          <dt>
            <Trans>Version</Trans>
          </dt>
          <dd>{health.data?.version ?? "…"}</dd>
        </div>
        <div>
          <dt>
            <Trans>Operational database</Trans>
          </dt>
          <dd>{reading.data ? `${reading.data.name}, ${reading.data.database.split("/").at(-1)}` : "…"}</dd>
        </div>
        <div>
          <dt>
            <Trans>Map</Trans>
          </dt>
          <dd title={reading.data?.fingerprint}>
            {reading.data
              ? t`${reading.data.recordTypes.length} record types, ${reading.data.fingerprint.slice(0, 12)}`
              : "…"}
          </dd>
        </div>
      </dl>
      {reading.error && <ProblemNote error={reading.error} retry={() => reading.refetch()} />}
    </section>
  );
}
