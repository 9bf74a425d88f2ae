import { type ComponentProps, lazy, Suspense, useEffect, useState } from "react";

const load = () => import("./Bars").then((module) => ({ default: module.Bars }));
const Bars = lazy(load);

/** Bars that come with the chart library once the numbers are there and the page has time to draw; their place is kept for them. */
export function Chart(props: ComponentProps<typeof Bars>) {
  const [hasTime, setHasTime] = useState(false);
  useEffect(() => {
    const wait = window.requestIdleCallback ?? ((then: () => void) => window.setTimeout(then, 50));
    const stop = window.cancelIdleCallback ?? window.clearTimeout;
    const waiting = wait(() => setHasTime(true), { timeout: 500 });
    return () => stop(waiting);
  }, []);
  return (
    <Suspense fallback={<div className="bars" />}>
      {hasTime ? <Bars {...props} /> : <div className="bars" />}
    </Suspense>
  );
}
