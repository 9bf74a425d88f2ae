import { useMediaQuery } from "@mantine/hooks";
import { useState } from "react";

const key = "kettlefog side bar";

/** Whether the side bar is open, and its switch. Until somebody chose, it is where there is room beside the work. */
export function useSide(): [boolean, () => void] {
  const hasRoom = useMediaQuery("(min-width: 1440px)", false, { getInitialValueInEffect: false });
  const [chosen, choose] = useState(() => localStorage.getItem(key));
  const isOpen = chosen === null ? hasRoom : chosen === "open";
  return [
    isOpen,
    () => {
      const next = isOpen ? "closed" : "open";
      localStorage.setItem(key, next);
      choose(next);
    },
  ];
}
