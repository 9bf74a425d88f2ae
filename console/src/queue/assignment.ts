import type { QueryClient } from "@tanstack/react-query";
import { api } from "../api/client";

const key = "kettlefog in hand";

const assignedHere = (): number[] => JSON.parse(sessionStorage.getItem(key) ?? "[]") as number[];

/** Remembers that this tab took a cluster in hand, so that it lets it go when it leaves it. */
export function rememberAssigned(cluster: number) {
  sessionStorage.setItem(key, JSON.stringify([...new Set([...assignedHere(), cluster])]));
}

/** Lets a cluster go that this tab took in hand; one that was assigned stays with whom it was assigned to. */
export async function release(cluster: number, queries: QueryClient) {
  const held = assignedHere();
  if (!held.includes(cluster)) return;
  sessionStorage.setItem(key, JSON.stringify(held.filter((each) => each !== cluster)));
  // One that was decided meanwhile is in nobody's hand any more, and the service says so.
  await api.assign(cluster, null).catch(() => {});
  await queries.invalidateQueries({ queryKey: ["clusters"] });
}
