import { Trans } from "@lingui/react/macro";
import { Button } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { api } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { saveFile } from "../ui/saveFile";

/** Saves a proof of an entry: a file by which somebody without access verifies that it is in the history. */
export function useProof(number: number) {
  const proof = useMutation({
    mutationFn: () => api.proveEntry(number),
    onSuccess: (found) =>
      saveFile(`proof-of-entry-${number}.json`, JSON.stringify(found, null, 2), "application/json"),
  });
  return {
    button: (
      <Button variant="default" size="compact-sm" loading={proof.isPending} onClick={() => proof.mutate()}>
        <Trans>Save a proof</Trans>
      </Button>
    ),
    result: (
      <>
        {proof.error && <ProblemNote error={proof.error} retry={() => proof.mutate()} />}
        {proof.data && !proof.isPending && (
          <div className="note done" role="status">
            <Trans>
              <strong>The proof is saved.</strong> With the public key (“kettlefog history key”), anybody can
              verify by “kettlefog service check-proof” that this entry is in the history and was not altered.
              The file holds every value of the entry.
            </Trans>
          </div>
        )}
      </>
    ),
  };
}
