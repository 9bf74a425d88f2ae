import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Button, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { MessageSquareText } from "lucide-react";
import { type KeyboardEvent, useState } from "react";
import { api, type Comment, type Session } from "../api/client";
import { Dialog } from "../ui/Dialog";
import { moment } from "../ui/format";
import { KeyButton } from "../ui/KeyButton";
import type { Scope } from "../ui/keyMap";
import { ProblemNote } from "../ui/ProblemNote";
import { refresh } from "../ui/refresh";
import { useKept } from "../ui/useKept";
import { useKeys } from "../ui/useKeys";

/** How many comments there are, or what to press to write one. */
export const commentsInWords = (count: number) =>
  count > 0 ? plural(count, { one: "# comment", other: "# comments" }) : t`Comment`;

/** What was said last about the records of a group, and the way to all of it. */
export function Comments({
  cluster,
  comments,
  session,
  scope,
}: {
  /** The number of the group. */
  cluster: number;
  comments: Comment[];
  session: Session;
  /** The part of the console whose key opens them. */
  scope: Extract<Scope, "queue" | "group">;
}) {
  const [isOpen, open] = useState(false);
  const last = comments.at(-1);
  useKeys(scope, { comment: () => open(true) });
  return (
    <>
      <KeyButton
        scope={scope}
        action="comment"
        size="compact-xs"
        label={commentsInWords(comments.length)}
        icon={
          <>
            <MessageSquareText size={16} aria-hidden /> {comments.length > 0 && comments.length}
          </>
        }
        press={() => open(true)}
      />
      {last && <LastComment comment={last} />}
      {isOpen && (
        <CommentDialog cluster={cluster} comments={comments} session={session} close={() => open(false)} />
      )}
    </>
  );
}

/** What was said last, in a line. */
export function LastComment({ comment }: { comment: Comment }) {
  return (
    <span className="last-comment" title={`${comment.author}, ${moment(comment.at)}: ${comment.text}`}>
      <strong>{comment.author}:</strong> <span dir="auto">{comment.text}</span>
    </span>
  );
}

/** All that was said about the records of a group, and the place to say more. */
export function CommentDialog({
  cluster,
  comments,
  session,
  close,
}: {
  cluster: number;
  comments: Comment[];
  session: Session;
  close: () => void;
}) {
  const queries = useQueryClient();
  // What was said cannot be brought back, so that one press does not take it away.
  const [asked, ask] = useState<number | null>(null);
  const [kept, keep, forget] = useKept(`comment ${cluster}`);
  const text = kept ?? "";
  const fresh = () =>
    Promise.all([
      refresh(queries, { queryKey: ["cluster", cluster] }),
      refresh(queries, { queryKey: ["clusters"] }),
    ]);
  const add = useMutation({
    mutationFn: () => api.addComment(cluster, text),
    onSuccess: () => {
      forget();
      return fresh();
    },
  });
  const remove = useMutation({ mutationFn: api.removeComment, onSettled: fresh });
  const whyNot =
    session.role === "viewer"
      ? t`Your role has read-only access.`
      : text.trim() === ""
        ? t`Write something.`
        : null;
  const submit = () => {
    if (whyNot === null && !add.isPending) add.mutate();
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey)) return;
    event.preventDefault();
    event.stopPropagation();
    submit();
  };
  return (
    <Dialog close={close} title={t`Comments on group ${cluster}`}>
      {(add.error ?? remove.error) && <ProblemNote error={add.error ?? remove.error} />}
      {comments.length === 0 && (
        <p className="muted" style={{ marginTop: 0 }}>
          <Trans>Nobody has said anything yet. A comment stays with the records, and decides nothing.</Trans>
        </p>
      )}
      <ol className="comments">
        {comments.map((comment) => (
          <li key={comment.id}>
            <div>
              <strong>{comment.author}</strong> <span className="muted small">{moment(comment.at)}</span>
              {(comment.author === session.name || session.role === "administrator") && (
                <button
                  type="button"
                  className="word-button push"
                  aria-label={
                    asked === comment.id
                      ? t`Press again to remove the comment of ${comment.author} for good`
                      : t`Remove the comment of ${comment.author}, ${moment(comment.at)}`
                  }
                  onClick={() => (asked === comment.id ? remove.mutate(comment.id) : ask(comment.id))}
                  onBlur={() => ask(null)}
                >
                  {asked === comment.id ? t`press again to remove it for good` : t`remove`}
                </button>
              )}
            </div>
            <div dir="auto" className="said">
              {comment.text}
            </div>
          </li>
        ))}
      </ol>
      <Textarea
        aria-label={t`Comment`}
        placeholder={t`For others who look at these records`}
        data-autofocus
        autosize
        minRows={2}
        maxRows={8}
        maxLength={2000}
        value={text}
        disabled={session.role === "viewer"}
        onChange={(event) => keep(event.currentTarget.value)}
        onKeyDown={onKeyDown}
      />
      <div className="bar" style={{ margin: "10px 0 0" }}>
        <Button disabled={whyNot !== null} loading={add.isPending} onClick={submit}>
          <Trans>Comment (Ctrl+Enter)</Trans>
        </Button>
        <Button variant="default" onClick={close}>
          <Trans>Close</Trans>
        </Button>
        <span className="why">{whyNot}</span>
      </div>
    </Dialog>
  );
}
