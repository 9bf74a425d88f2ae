import { createContext, useContext } from "react";

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

export interface Notices {
  say: (notice: Notice) => void;
  clear: () => void;
}

/** Where notices are said; the board is around every page. */
export const NoticeContext = createContext<Notices>({ say: () => {}, clear: () => {} });

/** Says what was just done, on whatever page comes next. */
export function useNotices(): Notices {
  return useContext(NoticeContext);
}
