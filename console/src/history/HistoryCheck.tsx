import { plural } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { ShieldCheck, ShieldX } from "lucide-react";
import { api } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";

/** Checks on request that nobody altered the history. */
export function useHistoryCheck() {
  const check = useMutation({ mutationFn: api.checkHistory });
  const found = check.data;
  return {
    button: (
      <Button
        variant="default"
        size="compact-sm"
        loading={check.isPending}
        leftSection={<ShieldCheck size={14} aria-hidden />}
        onClick={() => check.mutate()}
      >
        <Trans>Check the history</Trans>
      </Button>
    ),
    result: (
      <>
        {check.isPending && (
          <p className="muted" role="status">
            <Trans>Computing the hashes of all entries and their journal again …</Trans>
          </p>
        )}
        {check.error && <ProblemNote error={check.error} retry={() => check.mutate()} />}
        {found && !check.isPending && found.faults.length === 0 && (
          <div className="note done" role="status">
            <ShieldCheck size={16} aria-hidden className="mark" />{" "}
            <Trans>
              <strong>No changes were detected:</strong>{" "}
              {plural(found.entries, { one: "# entry was", other: "# entries were" })} checked.{" "}
            </Trans>
            {found.entries > 0 && (
              <Trans>
                The last one is {found.last}, with the hash <code className="break">{found.head}</code>. Keep
                both elsewhere to prove later that none was removed at the end.
              </Trans>
            )}
          </div>
        )}
        {found && !check.isPending && found.faults.length > 0 && (
          <div className="note blocker" role="alert">
            <ShieldX size={16} aria-hidden className="mark" />{" "}
            <strong>
              <Trans>The history was altered:</Trans>
            </strong>
            <ul>
              {found.faults.map((fault) => (
                <li key={fault}>{fault}</li>
              ))}
            </ul>
          </div>
        )}
      </>
    ),
  };
}
