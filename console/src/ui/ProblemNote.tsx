import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { Refused } from "../api/client";

/** A page of which nothing can be shown: what it would be, and why not. */
export function ProblemPage({ title, ...note }: { title: string; error: unknown; retry?: () => void }) {
  return (
    <>
      <div className="page-head">
        <h1>{title}</h1>
      </div>
      <ProblemNote {...note} />
    </>
  );
}

/** Says what went wrong and what to do about it. */
export function ProblemNote({ error, retry }: { error: unknown; retry?: () => void }) {
  const problem = error instanceof Refused ? error.problem : null;
  if (problem?.status === 401 && problem.code === "not-signed-in")
    return (
      <div className="note" role="status">
        <Trans>Your session had ended, so this was not done. Sign in, then try again.</Trans>
        {retry && (
          <Button size="compact-sm" variant="default" ml={8} onClick={retry}>
            <Trans>Try again</Trans>
          </Button>
        )}
      </div>
    );
  return (
    <div className="note blocker" role="alert">
      <strong>{problem?.title ?? t`The console has an error.`}</strong>
      {problem && problem.details.length > 0 && (
        <ul>
          {problem.details.map((detail) => (
            <li key={detail}>{detail}</li>
          ))}
        </ul>
      )}
      <div>{problem ? problem.hint : String(error)}</div>
      {retry && (
        <Button size="compact-sm" variant="default" mt={6} onClick={retry}>
          <Trans>Try again</Trans>
        </Button>
      )}
    </div>
  );
}
