import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import {
  api,
  type Clearing,
  type Job,
  type Plan,
  type PlanRequest,
  Refused,
  type Schemas,
} from "../api/client";
import { amount, number } from "../ui/format";
import { JobBar } from "../ui/JobBar";
import { KeyButton } from "../ui/KeyButton";
import { keysOf, shownKey } from "../ui/keyMap";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { refreshAll } from "../ui/refresh";
import { Term } from "../ui/Term";
import { useKept } from "../ui/useKept";
import { useKeys } from "../ui/useKeys";
import { Value } from "../ui/Value";
import { movedBy, planInShort } from "./PlanPanel";

/** How many lines of one kind are read at a glance; the rest opens. */
const fewest = 4;

/**
 * What a merge will do, beside the records and always in sight: what blocks it, what to mind, what is lost and what
 * moves; the reason for the history; and the merge itself.
 */
export function MergeSide({
  plan,
  request,
  planKey,
  keptAs,
  requireReason,
  obstacle,
  isDrawn,
  clear,
  done,
}: {
  plan: Plan;
  /** What the plan was made of. */
  request: PlanRequest;
  /** Where the plan is kept: one that the service sends instead goes there. */
  planKey: readonly unknown[];
  /** Under which name the reason is kept in this tab. */
  keptAs: string;
  requireReason: boolean;
  /** Why it cannot be merged now, or null. */
  obstacle: string | null;
  /** False while a choice was made that is not in the plan yet. */
  isDrawn: () => boolean;
  /** Chooses what clears a blocker, where that can be done. */
  clear?: (clearing: Clearing) => void;
  done: (entry: Schemas["EntryView"]) => void;
}) {
  const [keptReason, setReason, forgetReason] = useKept(keptAs);
  const reason = keptReason ?? "";
  const [job, setJob] = useState<Job | null>(null);
  const [stale, setStale] = useState<string[] | null>(null);
  const reasonInput = useRef<HTMLInputElement>(null);
  const requestKey = useRef({ fingerprint: "", key: "" });
  const queries = useQueryClient();
  const notices = useNotices();

  const merge = useMutation({
    mutationFn: (shown: Plan) => {
      // One key for one plan: should the answer get lost, the same click does not merge twice.
      if (requestKey.current.fingerprint !== shown.fingerprint)
        requestKey.current = { fingerprint: shown.fingerprint, key: crypto.randomUUID() };
      return api.merge(
        { plan: request, fingerprint: shown.fingerprint, reason: reason.trim(), dryRun: false },
        requestKey.current.key,
        setJob,
      );
    },
    onSettled: () => setJob(null),
    onSuccess: (entry) => {
      forgetReason();
      done(entry);
      void refreshAll(queries);
    },
    onError: (error) => {
      if (error instanceof Refused && error.problem.plan) {
        setStale(error.problem.details);
        queries.setQueryData(planKey, error.problem.plan);
      }
    },
  });
  const asked = JSON.stringify(request);
  const { reset } = merge;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another choice is another merge
  useEffect(() => {
    setStale(null);
    reset();
  }, [asked, reset]);

  const whyNot = obstacle ?? (requireReason && reason.trim() === "" ? t`A reason is required.` : null);
  const submit = () => {
    if (merge.isPending) return;
    // A choice that was made in this very moment is not in the plan that is shown.
    const why = isDrawn() ? whyNot : t`Updating the plan.`;
    if (why !== null) {
      notices.say({ text: t`Not merged. ${why}` });
      return;
    }
    notices.clear();
    merge.mutate(plan);
  };
  useKeys("merge", { merge: submit, reason: () => reasonInput.current?.focus() });

  const lost = plan.fields.filter((field) => field.changes && field.values[0]);
  const moves = plan.moves.filter((move) => move.policy === "reassign" && movedBy(move) > 0);
  return (
    <aside className="panel merge-side" aria-label={t`Merge`}>
      <div className="effects">
        <h2>
          <Trans>What the merge does</Trans>
        </h2>
        <p aria-live="polite">{planInShort(plan)}.</p>
        {stale && (
          <div className="note warning" role="alert">
            <Trans>
              <strong>Records changed while you worked.</strong> Review the updated plan; your choices are
              kept.
            </Trans>
            <ul>
              {stale.map((each) => (
                <li key={each}>{each}</li>
              ))}
            </ul>
          </div>
        )}
        {merge.error && !stale && <ProblemNote error={merge.error} />}
        {plan.blockers.map((blocker) => (
          <div key={blocker.message} className="note blocker">
            <strong>
              <Term name="blocker">
                <Trans>Blocked:</Trans>
              </Term>
            </strong>{" "}
            {blocker.message}{" "}
            {clear && blocker.clearings ? (
              blocker.clearings.map((clearing) => (
                <Button
                  key={`${clearing.kind} ${clearing.name}`}
                  size="compact-sm"
                  variant="default"
                  onClick={() => clear(clearing)}
                >
                  {clearing.title}
                </Button>
              ))
            ) : (
              <span className="muted">
                <Trans>To clear it: {blocker.remedy}</Trans>
              </span>
            )}
          </div>
        ))}
        {plan.warnings.length > 0 && (
          <div className="note warning">
            <strong>{plan.warnings.length === 1 ? t`Warning:` : t`${plan.warnings.length} warnings:`}</strong>
            <Lines>
              {plan.warnings.map((warning) => (
                <li key={warning}>{warning}</li>
              ))}
            </Lines>
          </div>
        )}
        {lost.length > 0 && (
          <section>
            <h3>
              <Trans>Overwritten on the master</Trans>
            </h3>
            <Lines>
              {lost.map((field) => (
                <li key={field.name}>
                  <span className="muted">{field.title}:</span> <Value text={field.values[0]} clip />
                </li>
              ))}
            </Lines>
          </section>
        )}
        {moves.length > 0 && (
          <section>
            <h3>
              <Trans>Moves to the master</Trans>
            </h3>
            <Lines>
              {moves.map((move) => (
                <li key={move.reference} className="moved">
                  <span>{move.title}</span>
                  <span>{number(movedBy(move))}</span>
                  <span>{move.amount === null ? "" : amount(move.amount)}</span>
                </li>
              ))}
            </Lines>
          </section>
        )}
        <p className="muted small">
          <Trans>Every old value is kept; the merge can be reversed at any time.</Trans>
        </p>
      </div>
      <div className="act">
        <TextInput
          ref={reasonInput}
          aria-label={t`Reason`}
          aria-keyshortcuts={keysOf("merge", "reason").keys.join(" ")}
          placeholder={
            requireReason
              ? t`Reason, required (${shownKey("merge", "reason")})`
              : t`Reason, optional (${shownKey("merge", "reason")})`
          }
          required={requireReason}
          value={reason}
          maxLength={2000}
          onChange={(event) => setReason(event.currentTarget.value)}
          onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
        />
        {job ? (
          <JobBar job={job} what={t`Merging`} />
        ) : (
          whyNot !== null && <span className="why">{whyNot}</span>
        )}
        <KeyButton
          scope="merge"
          action="merge"
          label={t`Merge`}
          variant="filled"
          size="sm"
          fullWidth
          whyNot={whyNot}
          loading={merge.isPending}
          press={submit}
        />
      </div>
    </aside>
  );
}

/** A list of which the first lines are shown, and the rest opens. */
function Lines({ children }: { children: ReactNode[] }) {
  const rest = children.slice(fewest);
  return (
    <>
      <ul>{children.slice(0, fewest)}</ul>
      {rest.length > 0 && (
        <details>
          <summary>
            <Trans>{number(rest.length)} more</Trans>
          </summary>
          <ul>{rest}</ul>
        </details>
      )}
    </>
  );
}
