import { useState } from "react";

/**
 * A text that is not saved yet, and survives a reload of the page in this tab.
 *
 * @param name Which text; another name is another text.
 * @returns The text or null, its setter, and what forgets it.
 */
export function useKept(name: string): [string | null, (text: string) => void, () => void] {
  const key = `kettlefog ${name}`;
  const [kept, setKept] = useState(() => ({ key, text: sessionStorage.getItem(key) }));
  return [
    kept.key === key ? kept.text : sessionStorage.getItem(key),
    (text) => {
      sessionStorage.setItem(key, text);
      setKept({ key, text });
    },
    () => {
      sessionStorage.removeItem(key);
      setKept({ key, text: null });
    },
  ];
}
