import { Button } from "@mantine/core";
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import { Link } from "react-router";
import { ProblemNote } from "./ProblemNote";
import { useKeys } from "./useKeys";

/** What was just done, and the ways on and back from it. */
export interface Notice {
  text: string;
  /** What was not done of it, and why. */
  problems?: string[];
  /** Takes it back. */
  undo?: () => Promise<void>;
  /** Where to look at it. */
  links?: { to: string; text: string }[];
}

interface Notices {
  say: (notice: Notice) => void;
  clear: () => void;
}

const Context = createContext<Notices>({ say: () => {}, clear: () => {} });

/** Says what was just done, on whatever page comes next. */
export function useNotices(): Notices {
  return useContext(Context);
}

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
      setNotice({ text: "Undone." });
    } catch (error) {
      setFailed(error);
    } finally {
      setUndoing(false);
    }
  };
  useKeys({ u: () => void undo() }, notice?.undo !== undefined);
  const notices = useMemo(() => ({ say, clear }), [say, clear]);
  return (
    <Context.Provider value={notices}>
      {failed !== null && <ProblemNote error={failed} />}
      {notice && (
        <div className="note done notice" role="status">
          <span>
            {notice.text}
            {notice.problems?.map((problem) => (
              <span key={problem} role="alert" className="not-done">
                Not done: {problem}
              </span>
            ))}
          </span>
          {notice.links?.map((link) => (
            <Link key={link.to} to={link.to}>
              {link.text}
            </Link>
          ))}
          {notice.undo && (
            <Button size="compact-sm" variant="default" loading={undoing} onClick={() => void undo()}>
              Undo (u)
            </Button>
          )}
          <button type="button" className="close" aria-label="Close this notice" onClick={clear}>
            ×
          </button>
        </div>
      )}
      {children}
    </Context.Provider>
  );
}
