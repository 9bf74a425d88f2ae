import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Session } from "../api/client";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";
import { refresh } from "../ui/refresh";
import { Table } from "../ui/Table";

/** Who is signed in to the console, and since when; a session can be ended from here. */
export function SessionPanel({ session }: { session: Session }) {
  const queries = useQueryClient();
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: api.sessions });
  const end = useMutation({
    mutationFn: api.endSession,
    onSettled: () => refresh(queries, { queryKey: ["sessions"] }),
  });
  return (
    <section className="panel" aria-label={t`Sessions`}>
      <header>
        <h2>
          <Trans>Sessions</Trans>
        </h2>
        <span className="muted small">
          <Trans>
            {session.role === "administrator" ? t`of all users` : t`your own`}; a session ends after twelve
            hours without use
          </Trans>
        </span>
      </header>
      {sessions.error && <ProblemNote error={sessions.error} retry={() => sessions.refetch()} />}
      {end.error && <ProblemNote error={end.error} />}
      {sessions.isPending && <Reading what={t`the sessions`} />}
      {sessions.data?.length === 0 && (
        <div className="body muted">
          <Trans>Nobody is signed in to the console.</Trans>
        </div>
      )}
      {sessions.data && sessions.data.length > 0 && (
        <Table
          rows={sessions.data}
          keyOf={(each) => each.id}
          columns={[
            { head: t`User`, cell: (each) => each.user },
            {
              head: t`Signed in from`,
              cell: (each) => each.address ?? <span className="muted">{t`not known`}</span>,
            },
            { head: t`Began`, kind: "short", cell: (each) => moment(each.createdAt) },
            { head: t`Last used`, kind: "short", cell: (each) => moment(each.lastSeenAt) },
            { head: t`Ends at the latest`, kind: "short", cell: (each) => moment(each.expiresAt) },
            {
              said: t`End`,
              kind: "short",
              cell: (each) =>
                each.isCurrent ? (
                  <span className="muted">
                    <Trans>this session</Trans>
                  </span>
                ) : (
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={t`End the session of ${each.user} that began ${moment(each.createdAt)}`}
                    loading={end.isPending && end.variables === each.id}
                    onClick={() => end.mutate(each.id)}
                  >
                    <Trans>End</Trans>
                  </Button>
                ),
            },
          ]}
        />
      )}
    </section>
  );
}
