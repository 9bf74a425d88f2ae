import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type ReactNode, useCallback, useMemo, useState } from "react";
import { Link } from "react-router";
import { KeyButton } from "./KeyButton";
import { type Notice, NoticeContext } from "./notices";
import { ProblemNote } from "./ProblemNote";
import { useKeys } from "./useKeys";

/** Shows the last notice above the page, and keeps it until the next one, or until it is closed. */
export function NoticeBoard({ children }: { children: ReactNode }) {
  const [notice, setNotice] = useState<Notice | null>(null);
  const [undoing, setUndoing] = useState(false);
  const [failed, setFailed] = useState<unknown>(null);
  const say = useCallback((next: Notice) => {
    setFailed(null);
    setNotice(next);
  }, []);
  const clear = useCallback(() => {
    setFailed(null);
    setNotice(null);
  }, []);
  const undo = async () => {
    if (!notice?.undo || undoing) return;
    setUndoing(true);
    try {
      await notice.undo();
      setNotice({ text: t`Undone.` });
    } catch (error) {
      setFailed(error);
    } finally {
      setUndoing(false);
    }
  };
  useKeys("notice", { undo: () => void undo() }, notice?.undo !== undefined);
  const notices = useMemo(() => ({ say, clear }), [say, clear]);
  return (
    <NoticeContext.Provider value={notices}>
      {failed !== null && <ProblemNote error={failed} />}
      {notice && (
        <div className="note done notice" role="status">
          <span>
            {notice.text}
            {notice.problems?.map((problem) => (
              <span key={problem} role="alert" className="not-done">
                <Trans>Not done: {problem}</Trans>
              </span>
            ))}
          </span>
          {notice.links?.map((link) => (
            <Link key={link.to} to={link.to}>
              {link.text}
            </Link>
          ))}
          {notice.undo && (
            <KeyButton
              scope="notice"
              action="undo"
              label={t`Undo`}
              loading={undoing}
              press={() => void undo()}
            />
          )}
          <button type="button" className="close" aria-label={t`Close this notice`} onClick={clear}>
            ×
          </button>
        </div>
      )}
      {children}
    </NoticeContext.Provider>
  );
}
