import { useState } from "react";

/** Whether a part of the page is open, and its switch; the choice is kept in this browser. */
export function useFolded(part: string): [boolean, () => void] {
  const key = `kettlefog open ${part}`;
  const [isOpen, setOpen] = useState(() => localStorage.getItem(key) !== null);
  return [
    isOpen,
    () => {
      if (isOpen) localStorage.removeItem(key);
      else localStorage.setItem(key, "yes");
      setOpen(!isOpen);
    },
  ];
}
