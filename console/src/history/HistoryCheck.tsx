import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, FileButton } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { ShieldCheck, ShieldX } from "lucide-react";
import { api } from "../api/client";
import { moment } from "../ui/format";
import { ProblemNote } from "../ui/ProblemNote";
import { saveFile } from "../ui/saveFile";

/** Far above any checkpoint; what is longer is none, and is not sent as a whole. */
const longest = 4_000;

/** The last checkpoint of a file to which they are appended: a text, an empty line, and its signature. */
function lastCheckpoint(text: string): string {
  return `${text.trim().split("\n\n").slice(-2).join("\n\n").trimStart()}\n`.slice(0, longest);
}

/** Checks on request that nobody altered the history. */
export function useHistoryCheck() {
  const check = useMutation({ mutationFn: (checkpoint?: string) => api.checkHistory(checkpoint) });
  const checkpoint = useMutation({
    mutationFn: api.signCheckpoint,
    onSuccess: (signed) => saveFile(`checkpoint-${signed.size}.txt`, signed.text, "text/plain"),
  });
  const found = check.data;
  const compared = found?.checkpoint;
  return {
    button: (
      <>
        <Button
          variant="default"
          size="compact-sm"
          loading={check.isPending}
          onClick={() => check.mutate(undefined)}
        >
          <Trans>Check the history</Trans>
        </Button>
        <FileButton
          accept="text/plain,.txt"
          inputProps={{ "aria-label": t`File of a checkpoint` }}
          onChange={(file) => file?.text().then((text) => check.mutate(lastCheckpoint(text)))}
        >
          {(props) => (
            <Button {...props} variant="default" size="compact-sm" disabled={check.isPending}>
              <Trans>Check against a checkpoint…</Trans>
            </Button>
          )}
        </FileButton>
        <Button
          variant="default"
          size="compact-sm"
          loading={checkpoint.isPending}
          onClick={() => checkpoint.mutate()}
        >
          <Trans>Save a checkpoint</Trans>
        </Button>
      </>
    ),
    result: (
      <>
        {check.isPending && (
          <p className="muted" role="status">
            <Trans>Computing the hashes of all entries and their journal again …</Trans>
          </p>
        )}
        {check.error && <ProblemNote error={check.error} retry={() => check.mutate(check.variables)} />}
        {checkpoint.error && <ProblemNote error={checkpoint.error} retry={() => checkpoint.mutate()} />}
        {checkpoint.data && !checkpoint.isPending && (
          <div className="note done" role="status">
            <Trans>
              <strong>The checkpoint is saved.</strong> Keep it where nobody who can write to the database can
              change it: checked against it, the history proves that what it had by now was neither altered
              nor removed.
            </Trans>
          </div>
        )}
        {found && !check.isPending && found.faults.length === 0 && (
          <div className="note done" role="status">
            <ShieldCheck size={16} aria-hidden className="mark" />{" "}
            <Trans>
              <strong>No changes were detected:</strong>{" "}
              {plural(found.entries, { one: "# entry was", other: "# entries were" })} checked.{" "}
            </Trans>
            {found.entries > 0 && (
              <Trans>
                The last one is {found.last}, with the hash <code className="break">{found.head}</code>.{" "}
              </Trans>
            )}
            {compared ? (
              <Trans>
                The history begins with the {plural(compared.size, { one: "# entry", other: "# entries" })} of
                the checkpoint of {moment(compared.at)}
                {compared.isOwnKey
                  ? t`, which this service signed.`
                  : t`. It is signed by another key (${compared.key}), which was not verified.`}
              </Trans>
            ) : (
              <Trans>
                Whether all were rewritten, or some removed at the end, only a checkpoint tells that is kept
                elsewhere.
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
