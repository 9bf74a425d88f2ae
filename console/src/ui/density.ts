import { useEffect, useState } from "react";

const key = "kettlefog density";

/** Whether rows have more room, and its setter; the choice is kept in this browser. */
export function useDensity(): [boolean, (isRoomy: boolean) => void] {
  const [isRoomy, setRoomy] = useState(() => localStorage.getItem(key) === "roomy");
  useEffect(() => {
    if (isRoomy) document.documentElement.dataset.density = "roomy";
    else delete document.documentElement.dataset.density;
  }, [isRoomy]);
  return [
    isRoomy,
    (next) => {
      localStorage.setItem(key, next ? "roomy" : "dense");
      setRoomy(next);
    },
  ];
}
