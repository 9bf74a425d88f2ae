import { type RefObject, useLayoutEffect, useState } from "react";

/**
 * The width that an element has for what is in it, in pixels. It is known before the first drawing is seen, so that
 * nothing jumps; zero where nothing is laid out.
 */
export function useWidth(element: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const found = element.current;
    if (!found) return;
    const measure = () => setWidth(found.clientWidth);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(found);
    return () => observer.disconnect();
  }, [element]);
  return width;
}
