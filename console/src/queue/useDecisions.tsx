import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";
import { api, type Cluster, Refused, type Schemas, type Session } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { day } from "../ui/format";
import { useNotices } from "../ui/notices";
import { ProblemNote } from "../ui/ProblemNote";
import { refreshAll } from "../ui/refresh";
import { forgetDecided } from "./forget";

/** The decisions about groups that are no merge and are asked about before they are made. */
export type DecisionKind = "non-duplicates" | "postpone" | "reopen" | "assign";

/** What is to be decided: about groups, about one record of a group, or about what an entry of the history decided. */
export interface Question {
  kind: DecisionKind;
  clusters: Pick<Cluster, "id" | "records">[];
  /** The key of the only record that is not a duplicate of the others. */
  only?: string;
  /** The record type of two records that are in no group; they are the only ones of the only “group”. */
  pairOf?: string;
  /** The entry of the history that is reopened, whatever became of its group. */
  entry?: number;
}

const words: Record<DecisionKind, string> = {
  "non-duplicates": t`Mark as not duplicates`,
  postpone: t`Postpone`,
  reopen: t`Reopen`,
  assign: t`Assign`,
};

const dayFromNow = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

const named = (clusters: Question["clusters"]) =>
  clusters.length === 1
    ? (clusters[0]?.records.map((record) => record.label).join(" | ") ?? "")
    : plural(clusters.length, { one: "# group", other: "# groups" });

interface Answer {
  reason: string;
  until: string;
  /** Whom they are assigned to; empty for nobody. */
  user: string;
  /** Whether those that others have are assigned, too. */
  force: boolean;
}

interface Outcome {
  /** The groups about which it was decided. */
  done: number[];
  /** Whose each of them was that was assigned; null for nobody's. */
  before?: Map<number, string | null>;
  /** Why it was refused for others. */
  refused: Schemas["ClusterDecisionView"][];
  /** The entry of the history, if it is one. */
  entry: number | null;
}

/** What was decided about groups, with until when or to whom. */
function doneInWords(kind: DecisionKind, { until, user }: Answer, groups: string): string {
  switch (kind) {
    case "non-duplicates":
      return t`Marked as not duplicates: ${groups}.`;
    case "postpone":
      return t`Postponed until ${day(until)}: ${groups}.`;
    case "reopen":
      return t`Reopened: ${groups}.`;
    case "assign":
      return user ? t`Assigned to ${user}: ${groups}.` : t`Assigned to nobody: ${groups}.`;
  }
}

/** Makes a decision in one call. */
async function decide(
  { kind, clusters, only, pairOf, entry }: Question,
  { reason, until, user, force }: Answer,
): Promise<Outcome> {
  const ids = clusters.map((cluster) => cluster.id);
  if (entry !== undefined)
    return { done: ids, refused: [], entry: (await api.reopenEntry(entry, reason)).summary.number };
  if (pairOf !== undefined) {
    const [a, b] = clusters[0]?.records.map((record) => record.key) ?? [];
    const recorded = await api.markPairNonDuplicates({ recordType: pairOf, a: a ?? "", b: b ?? "", reason });
    return { done: ids, refused: [], entry: recorded.summary.number };
  }
  if (only !== undefined) {
    const recorded = await api.markNonDuplicates(ids[0] ?? 0, { records: [only], reason });
    return { done: ids, refused: [], entry: recorded.summary.number };
  }
  const results = await api.decideClusters({
    decision: kind,
    clusters: ids,
    reason,
    until: kind === "postpone" ? until : null,
    user: kind === "assign" ? user || null : null,
    force,
  });
  const refused = results.filter((result) => result.problem);
  if (refused.length === results.length && refused[0]?.problem) throw new Refused(refused[0].problem);
  return {
    done: results.filter((result) => !result.problem).map((result) => result.cluster),
    before: new Map(results.map((result) => [result.cluster, result.assigneeBefore ?? null])),
    refused,
    entry: null,
  };
}

/** Takes a decision back, as far as that is possible. */
async function takeBack({ kind }: Question, { done, entry, before }: Outcome): Promise<void> {
  const reason = t`Undone right after it was decided.`;
  if (entry !== null) {
    await api.reopenEntry(entry, reason);
    return;
  }
  // Each goes back to whoever had it.
  const byUser = new Map<string | null, number[]>();
  for (const id of done) {
    const user = before?.get(id) ?? null;
    byUser.set(user, [...(byUser.get(user) ?? []), id]);
  }
  const results: Outcome["refused"] = [];
  for (const [user, ids] of byUser)
    results.push(
      ...(await api.decideClusters({
        decision: kind === "assign" ? "assign" : kind === "postpone" ? "resume" : "reopen",
        clusters: ids,
        reason,
        until: null,
        user,
        force: kind === "assign",
      })),
    );
  const problem = results.find((result) => result.problem)?.problem;
  if (problem) throw new Refused(problem);
}

/**
 * The decisions about groups that are no merge. Each is asked about, with a reason for the history, is made in one
 * call, and can be undone from the notice that tells of it. The panel has to be put on the page.
 */
export function useDecisions(): {
  /** Asks; afterwards it is said which groups it was decided about. */
  ask: (question: Question, after?: (done: number[]) => void) => void;
  resume: (clusters: Question["clusters"]) => void;
  isPending: boolean;
  error: unknown;
  panel: ReactNode;
} {
  const queries = useQueryClient();
  const notices = useNotices();
  const [asked, setAsked] = useState<{ question: Question; after?: (done: number[]) => void } | null>(null);

  const tell = (question: Question, answer: Answer, outcome: Outcome) =>
    notices.say({
      text:
        question.only !== undefined
          ? t`${question.only} is marked as not a duplicate of the others.`
          : doneInWords(
              question.kind,
              answer,
              named(question.clusters.filter((cluster) => outcome.done.includes(cluster.id))),
            ),
      problems: outcome.refused.map((result) => result.problem?.title ?? ""),
      ...(question.kind !== "reopen" && {
        undo: async () => {
          await takeBack(question, outcome).finally(() => refreshAll(queries));
        },
      }),
    });
  const decision = useMutation({
    mutationFn: ({ question, answer }: { question: Question; answer: Answer }) => decide(question, answer),
    onSuccess: (outcome, { question, answer }) => {
      const isOfGroups = question.only === undefined && question.pairOf === undefined;
      if (isOfGroups && question.kind !== "assign") forgetDecided(queries, outcome.done);
      setAsked(null);
      tell(question, answer, outcome);
      asked?.after?.(outcome.done);
    },
    // Whoever goes on at once does not wait until all that is shown is read again.
    onSettled: () => void refreshAll(queries),
  });
  const resume = useMutation({
    mutationFn: async (clusters: Question["clusters"]) => {
      const results = await api.decideClusters({
        decision: "resume",
        clusters: clusters.map((cluster) => cluster.id),
        reason: "",
        until: null,
        user: null,
        force: false,
      });
      const problem = results.find((result) => result.problem)?.problem;
      if (problem) throw new Refused(problem);
    },
    onSuccess: (_done, clusters) => {
      forgetDecided(
        queries,
        clusters.map((cluster) => cluster.id),
      );
      notices.say({ text: t`Back in the queue: ${named(clusters)}.` });
    },
    onSettled: () => void refreshAll(queries),
  });
  return {
    ask: (question, after) => {
      if (question.clusters.length === 0 && question.entry === undefined) return;
      decision.reset();
      setAsked({ question, ...(after && { after }) });
    },
    resume: (clusters) => clusters.length > 0 && resume.mutate(clusters),
    isPending: decision.isPending || resume.isPending,
    error: resume.error,
    panel: asked && (
      <DecisionPanel
        question={asked.question}
        error={decision.error}
        isPending={decision.isPending}
        decide={(answer) => decision.mutate({ question: asked.question, answer })}
        close={() => setAsked(null)}
      />
    ),
  };
}

/** At once: whoever types on after the key that asked loses no letter. */
const takeFocus = (input: HTMLInputElement | null) => input?.focus();

/** Asks for what belongs to a decision. Enter makes it, Escape leaves it. */
function DecisionPanel({
  question,
  error,
  isPending,
  decide,
  close,
}: {
  question: Question;
  error: unknown;
  isPending: boolean;
  decide: (answer: Answer) => void;
  close: () => void;
}) {
  const [reason, setReason] = useState("");
  const [until, setUntil] = useState(dayFromNow(7));
  const queries = useQueryClient();
  const [user, setUser] = useState(() => queries.getQueryData<Session>(["session"])?.name ?? "");
  const [force, setForce] = useState(false);
  const isAssigning = question.kind === "assign";
  const assignees = useQuery({ queryKey: ["assignees"], queryFn: api.assignees, enabled: isAssigning });
  const form = useId();
  const title = words[question.kind];
  const earliest = dayFromNow(1);
  const why = question.kind === "postpone" && until < earliest ? t`Choose a day after today.` : null;
  return (
    <Dialog close={close} title={title}>
      <form
        id={form}
        onSubmit={(event) => {
          event.preventDefault();
          if (!why && !isPending) decide({ reason: reason.trim(), until, user, force });
        }}
      >
        {error !== null && error !== undefined && <ProblemNote error={error} />}
        {assignees.error && <ProblemNote error={assignees.error} retry={() => assignees.refetch()} />}
        <p style={{ marginTop: 0 }}>
          {question.only !== undefined ? (
            <Trans>
              <strong>{question.only}</strong> is not a duplicate of the other records of the group.
            </Trans>
          ) : (
            <strong>
              {question.clusters.length > 0 ? named(question.clusters) : t`Entry ${question.entry ?? ""}`}
            </strong>
          )}
        </p>
        {question.kind === "postpone" && (
          <TextInput
            type="date"
            label={t`Until`}
            min={earliest}
            value={until}
            onChange={(event) => setUntil(event.currentTarget.value)}
            mb={8}
          />
        )}
        {isAssigning ? (
          <>
            <NativeSelect
              label={t`To`}
              data-autofocus
              value={user}
              onChange={(event) => setUser(event.currentTarget.value)}
              data={[
                { value: "", label: t`Nobody` },
                ...(assignees.data ?? []).map((each) => ({
                  value: each.name,
                  label: `${each.fullName} (${each.name})`,
                })),
              ]}
            />
            <Checkbox
              mt={10}
              label={t`Also those that are assigned to others`}
              checked={force}
              onChange={(event) => setForce(event.currentTarget.checked)}
            />
          </>
        ) : (
          <TextInput
            label={t`Reason`}
            description={
              question.kind === "postpone"
                ? t`Optional; shown with the group.`
                : t`Optional; recorded in the history.`
            }
            ref={takeFocus}
            data-autofocus
            maxLength={2000}
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
        )}
        <div className="bar" style={{ margin: "14px 0 0" }}>
          <Button type="submit" disabled={why !== null} loading={isPending}>
            {title}
          </Button>
          <Button variant="default" onClick={close}>
            <Trans>Cancel</Trans>
          </Button>
          <span className="why">{why}</span>
        </div>
      </form>
    </Dialog>
  );
}
