import { t } from "@lingui/core/macro";
import type { ClusterQuery } from "../api/client";

/** Which groups the queue shows; all of it is in the address. */
export interface QueueFilter {
  type: string;
  state: string;
  who: "anybody" | "nobody" | "me" | "somebody";
  /** The match rule that proposes them; empty for any. */
  rule: string;
  minScore: string;
  maxScore: string;
  order: string;
  /** "true" for the opposite order. */
  reverse: string;
}

const usual: QueueFilter = {
  type: "",
  state: "open",
  who: "anybody",
  rule: "",
  minScore: "",
  maxScore: "",
  order: "confidence",
  reverse: "",
};

const words = Object.keys(usual) as (keyof QueueFilter)[];

/** Reads a filter from the query of an address. */
export function readFilter(query: URLSearchParams): QueueFilter {
  const filter: Record<string, string> = { ...usual };
  for (const word of words) filter[word] = query.get(word) ?? usual[word];
  return filter as unknown as QueueFilter;
}

/** Writes a filter into the query of an address; what is as usual is left out. */
export function writeFilter(filter: QueueFilter): URLSearchParams {
  const query = new URLSearchParams();
  for (const word of words) if (filter[word] !== usual[word]) query.set(word, filter[word]);
  return query;
}

/** What to ask the service for. */
export function queryOf(filter: QueueFilter, user: string): ClusterQuery {
  const percent = (text: string) => {
    const number = Number(text);
    return text !== "" && number >= 0 && number <= 100 ? number : undefined;
  };
  const minScore = percent(filter.minScore);
  const maxScore = percent(filter.maxScore);
  return {
    ...(filter.type && { type: filter.type }),
    state: filter.state,
    ...(filter.who === "nobody" && { assigned: "" }),
    ...(filter.who === "me" && { assigned: user }),
    ...(filter.who === "somebody" && { assigned: "*" }),
    ...(filter.rule && { rule: filter.rule }),
    ...(minScore !== undefined && { minScore }),
    ...(maxScore !== undefined && { maxScore }),
    order: filter.order,
    ...(filter.reverse === "true" && { reverse: true }),
  };
}

/** The order and direction after a press on the head of a column: first as usual, then the opposite. */
export function sortedBy(filter: QueueFilter, order: string): Pick<QueueFilter, "order" | "reverse"> {
  const isAgain = filter.order === order && filter.reverse === "";
  return { order, reverse: isAgain ? "true" : "" };
}

/** What leaves groups out beside their record type and state, in words, each with the change that gives it up. */
export function chipsOf(filter: QueueFilter): { text: string; without: Partial<QueueFilter> }[] {
  const chips: { text: string; without: Partial<QueueFilter> }[] = [];
  if (filter.who !== "anybody") chips.push({ text: whose[filter.who], without: { who: "anybody" } });
  if (filter.minScore !== "") chips.push({ text: t`from ${filter.minScore} %`, without: { minScore: "" } });
  if (filter.maxScore !== "") chips.push({ text: t`to ${filter.maxScore} %`, without: { maxScore: "" } });
  if (filter.rule !== "") chips.push({ text: t`rule ${filter.rule}`, without: { rule: "" } });
  return chips;
}

/** Whose groups are listed, in words. */
export const whose: Record<QueueFilter["who"], string> = {
  anybody: t`Assigned or not`,
  nobody: t`Assigned to nobody`,
  me: t`Assigned to me`,
  somebody: t`Assigned to anyone`,
};

/** The address of the queue. */
export function queueAddress(filter: Partial<QueueFilter> = {}): string {
  const query = writeFilter({ ...usual, ...filter }).toString();
  return query ? `/queue?${query}` : "/queue";
}

/** The address at which a cluster is compared; the queue it was taken from goes along. */
export function clusterAddress(type: string, cluster: number, filter: QueueFilter): string {
  const query = new URLSearchParams({ cluster: String(cluster) });
  const from = writeFilter(filter).toString();
  if (from) query.set("queue", from);
  return `/compare/${encodeURIComponent(type)}?${query}`;
}
