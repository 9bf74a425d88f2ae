import { useEffect, useState } from "react";

const key = "kettlefog contrast";

/** Whether the page is drawn with high contrast, and its setter; the choice is kept in this browser. */
export function useContrast(): [boolean, (high: boolean) => void] {
  const [high, setHigh] = useState(() => localStorage.getItem(key) === "high");
  useEffect(() => {
    if (high) document.documentElement.dataset.contrast = "high";
    else delete document.documentElement.dataset.contrast;
  }, [high]);
  return [
    high,
    (next) => {
      localStorage.setItem(key, next ? "high" : "usual");
      setHigh(next);
    },
  ];
}
