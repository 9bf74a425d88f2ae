import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type Job, type MapView, Refused, type Schemas, type Session } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { JobBar } from "../ui/JobBar";
import { ProblemNote } from "../ui/ProblemNote";
import { refreshAll } from "../ui/refresh";
import { useAddress } from "../ui/useAddress";
import { ReversalSteps } from "./ReversalSteps";

/** Takes a merge back: shows first what comes back and what drifted, then does just that. */
export function ReverseMerge({
  number,
  map,
  session,
  needsReason,
}: {
  number: number;
  map: MapView;
  session: Session;
  /** True if the map wants a reason. */
  needsReason: boolean;
}) {
  const { query, set } = useAddress();
  const viewer = session.role === "viewer";
  return (
    <div className="bar">
      <Button variant="default" disabled={viewer} onClick={() => set({ back: "true" })}>
        <Trans>Reverse this merge…</Trans>
      </Button>
      {viewer && (
        <span className="why">
          <Trans>Your role has read-only access.</Trans>
        </span>
      )}
      {query.get("back") === "true" && !viewer && (
        <ReversalDialog
          map={map}
          number={number}
          needsReason={needsReason}
          close={() => set({ back: null })}
        />
      )}
    </div>
  );
}

function ReversalDialog({
  map,
  number,
  needsReason,
  close,
}: {
  map: MapView;
  number: number;
  needsReason: boolean;
  close: () => void;
}) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [withLater, setWithLater] = useState(false);
  const [undoDrift, setUndoDrift] = useState<string[]>([]);
  const [only, setOnly] = useState<string | null>(null);
  const [keepLinked, setKeepLinked] = useState(false);
  const [job, setJob] = useState<Job | null>(null);
  const [reason, setReason] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const plan = useQuery({
    queryKey: ["reversal-plan", number, withLater, undoDrift, only, keepLinked],
    queryFn: () => api.planReversal(number, { withLater, undoDrift, only, keepLinked }),
    placeholderData: keepPreviousData,
    staleTime: 0,
    gcTime: 0,
  });
  const reverse = useMutation({
    mutationFn: (shown: Schemas["ReversalPlanView"]) =>
      api.reverse(
        number,
        {
          fingerprint: shown.fingerprint,
          reason: reason.trim(),
          withLater,
          dryRun: false,
          undoDrift,
          only,
          keepLinked,
        },
        key,
        setJob,
      ),
    onSettled: () => setJob(null),
    onSuccess: (result) => {
      navigate(`/history/${result.entries.find((entry) => entry.reverses === number)?.number}`);
      void refreshAll(queries);
    },
    onError: () => {
      setKey(crypto.randomUUID());
      void plan.refetch();
    },
  });
  const standsUnder =
    plan.error instanceof Refused && plan.error.problem.code === "not-reversible" && !withLater;
  const records = plan.data?.reversals.find((each) => each.number === number)?.records ?? [];
  const linked =
    plan.data?.reversals
      .map((each) => each.number)
      .filter((each) => each !== number && !plan.data.dependentMerges.includes(each)) ?? [];
  const whyNot =
    plan.data && !plan.isPlaceholderData
      ? needsReason && reason.trim() === ""
        ? t`A reason is required.`
        : null
      : plan.error
        ? t`It cannot be reversed like this.`
        : t`Loading what will be restored…`;
  return (
    <Dialog close={close} title={t`Reverse merge ${number}`} size={1000}>
      {reverse.error && <ProblemNote error={reverse.error} />}
      {plan.error && <ProblemNote error={plan.error} />}
      {standsUnder && plan.error instanceof Refused && plan.error.problem.details.length > 0 && (
        <Button variant="default" mb={10} onClick={() => setWithLater(true)}>
          <Trans>Reverse the later merges too</Trans>
        </Button>
      )}
      {(records.length > 2 || only !== null) && (
        <NativeSelect
          label={t`What to reverse`}
          mb={10}
          value={only ?? ""}
          onChange={(event) => {
            setOnly(event.currentTarget.value || null);
            setUndoDrift([]);
          }}
          data={[
            { value: "", label: t`the whole merge` },
            ...(records.length > 0 ? records.slice(1) : [{ key: only ?? "", label: "" }]).map((record) => ({
              value: record.key,
              label: t`only ${record.key} ${record.label}`,
            })),
          ]}
        />
      )}
      {(linked.length > 0 || keepLinked) && (
        <Checkbox
          mb={10}
          label={t`Keep the linked merges${linked.length > 0 ? ` (${linked.join(", ")})` : ""}`}
          checked={keepLinked}
          onChange={(event) => {
            setKeepLinked(event.currentTarget.checked);
            setUndoDrift([]);
          }}
        />
      )}
      {plan.data?.reversals.map((reversal) => (
        <section key={reversal.number} style={{ marginBottom: 12 }}>
          {plan.data.reversals.length > 1 && (
            <h2>
              <Trans>Merge {reversal.number}</Trans>
            </h2>
          )}
          {reversal.drift.length === 0 && (
            <p style={{ margin: "0 0 8px" }}>
              {reversal.only === null
                ? t`Nothing has changed since. Everything will be restored exactly.`
                : t`Nothing has changed since. ${reversal.only} will be restored exactly; the master keeps what it took from it.`}
            </p>
          )}
          <ReversalSteps
            map={map}
            reversal={reversal}
            choose={{
              chosen: undoDrift,
              change: (id, chosen) =>
                setUndoDrift((before) => (chosen ? [...before, id] : before.filter((each) => each !== id))),
            }}
          />
        </section>
      ))}
      {job && <JobBar job={job} what={t`Reversing`} />}
      <div className="bar" style={{ margin: 0 }}>
        <TextInput
          aria-label={t`Reason`}
          placeholder={t`Reason (for the history)`}
          style={{ flex: 1 }}
          value={reason}
          maxLength={2000}
          data-autofocus
          onChange={(event) => setReason(event.currentTarget.value)}
        />
        <span className="why">{whyNot ?? ""}</span>
        <Button variant="default" onClick={close}>
          <Trans>Cancel</Trans>
        </Button>
        <Button
          disabled={whyNot !== null}
          loading={reverse.isPending}
          onClick={() => plan.data && reverse.mutate(plan.data)}
        >
          <Trans>Reverse merge</Trans>
        </Button>
      </div>
    </Dialog>
  );
}
