import { useState } from "react";

/** A text that is not saved yet, and survives a reload of the page in this tab: the text or null, its setter, and what forgets it. */
export function useKept(name: string): [string | null, (text: string) => void, () => void] {
  const key = `kettlefog ${name}`;
  const [text, setText] = useState(() => sessionStorage.getItem(key));
  return [
    text,
    (next) => {
      sessionStorage.setItem(key, next);
      setText(next);
    },
    () => {
      sessionStorage.removeItem(key);
      setText(null);
    },
  ];
}
