const key = "kettlefog skipped";
const most = 500;

/** The clusters that were skipped in this tab, the latest last: "next" passes them over. */
export const skippedHere = (): number[] => JSON.parse(sessionStorage.getItem(key) ?? "[]") as number[];

/** Remembers that a cluster was skipped. */
export function rememberSkipped(cluster: number) {
  const others = skippedHere().filter((each) => each !== cluster);
  sessionStorage.setItem(key, JSON.stringify([...others, cluster].slice(-most)));
}
