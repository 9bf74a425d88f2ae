import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Session } from "../api/client";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { Reading } from "../ui/Reading";

/** Who is signed in to the console, and since when; a session can be ended from here. */
export function SessionPanel({ session }: { session: Session }) {
  const queries = useQueryClient();
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: api.sessions });
  const end = useMutation({
    mutationFn: api.endSession,
    onSettled: () => queries.invalidateQueries({ queryKey: ["sessions"] }),
  });
  return (
    <section className="panel" aria-label="Sessions">
      <header>
        <h2>Sessions</h2>
        <span className="muted small">
          {session.role === "administrator" ? "of all users" : "your own"}; a session ends after twelve hours
          without use
        </span>
      </header>
      {sessions.error && <ProblemNote error={sessions.error} retry={() => sessions.refetch()} />}
      {end.error && <ProblemNote error={end.error} />}
      {sessions.isPending && <Reading what="the sessions" />}
      {sessions.data?.length === 0 && <div className="body muted">Nobody is signed in to the console.</div>}
      {sessions.data && sessions.data.length > 0 && (
        <table className="rows">
          <thead>
            <tr>
              <th>User</th>
              <th>Signed in from</th>
              <th>Began</th>
              <th>Ends at the latest</th>
              <th>
                <span className="visually-hidden">End</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {sessions.data.map((each) => (
              <tr key={each.id}>
                <td>{each.user}</td>
                <td>{each.address ?? <span className="muted">not known</span>}</td>
                <td className="short">{moment(each.createdAt)}</td>
                <td className="short">{moment(each.expiresAt)}</td>
                <td className="short">
                  {each.isCurrent ? (
                    <span className="muted">this session</span>
                  ) : (
                    <Button
                      size="compact-xs"
                      variant="default"
                      aria-label={`End the session of ${each.user} that began ${moment(each.createdAt)}`}
                      loading={end.isPending && end.variables === each.id}
                      onClick={() => end.mutate(each.id)}
                    >
                      End
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
