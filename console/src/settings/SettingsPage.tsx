import { useQuery } from "@tanstack/react-query";
import { api, type Session } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { MapPanel } from "./MapPanel";
import { TokenPanel } from "./TokenPanel";
import { UserPanel } from "./UserPanel";

/** Who may work here, the map as it was read, and whether the service is well. */
export default function SettingsPage({ session }: { session: Session }) {
  const health = useQuery({ queryKey: ["health"], queryFn: api.health, staleTime: 0 });
  const reading = useQuery({
    queryKey: ["map-reading"],
    queryFn: api.mapReading,
    staleTime: Number.POSITIVE_INFINITY,
    refetchInterval: (query) => (query.state.data?.findings === null ? 1000 : false),
  });
  return (
    <>
      <div className="page-head">
        <h1>Settings</h1>
      </div>
      <section className="panel" style={{ marginBottom: 12 }} aria-label="Health">
        <dl className="facts body">
          <div>
            <dt>Service</dt>
            <dd>
              {health.data
                ? health.data.status === "ok"
                  ? "works"
                  : "works, but its database does not answer"
                : health.error
                  ? "cannot be reached"
                  : "…"}
            </dd>
          </div>
          <div>
            <dt>Version</dt>
            <dd>{health.data?.version ?? "…"}</dd>
          </div>
          <div>
            <dt>Operational database</dt>
            <dd>{reading.data ? `${reading.data.name}, ${reading.data.database.split("/").at(-1)}` : "…"}</dd>
          </div>
          <div>
            <dt>Map</dt>
            <dd title={reading.data?.fingerprint}>
              {reading.data
                ? `${reading.data.recordTypes.length} record types, ${reading.data.fingerprint.slice(0, 12)}`
                : "…"}
            </dd>
          </div>
        </dl>
      </section>
      <div className="columns even" style={{ marginBottom: 12 }}>
        <UserPanel session={session} />
        <TokenPanel session={session} />
      </div>
      {reading.error && <ProblemNote error={reading.error} retry={() => reading.refetch()} />}
      {reading.isPending && <Reading what="the map" rows={8} />}
      {reading.data && <MapPanel reading={reading.data} />}
    </>
  );
}
