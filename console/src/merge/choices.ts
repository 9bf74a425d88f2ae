import type { Clearing, LinkedMerge, PlanField, PlanRequest } from "../api/client";

/** What the operator chose for a field. */
export type Choice = { from: string } | { typed: string };

/** The state of a comparison, all of which stands in the address: it survives a reload and can be sent to somebody. */
export interface Comparison {
  keys: string[];
  master: string;
  choices: Record<string, Choice>;
  all: boolean;
  /** The references whose rows stay with the retired records. */
  exclude: string[];
  /** The rules of at most one by which the rows of the duplicates end. */
  end: string[];
  /** The merges of linked records that are done along. */
  linked: LinkedMerge[];
  /** The cluster whose records these are, or null for records that were picked by hand. */
  cluster: number | null;
  /** The filter of the queue from which the cluster was taken, as it stands in an address. */
  queue: string;
}

/** A linked merge in the address: its record type, its master, its duplicates. Anything else there is passed over. */
function readLinked(text: string): LinkedMerge[] {
  try {
    const [recordType, master, ...duplicates] = JSON.parse(text) as string[];
    return recordType && master && duplicates.length > 0
      ? [{ recordType, master, duplicates, fields: null, exclude: null, end: null }]
      : [];
  } catch {
    return [];
  }
}

/** Reads a comparison from the query of an address. */
export function readComparison(query: URLSearchParams): Comparison {
  const keys = [...new Set(query.getAll("key"))];
  const master = query.get("master") ?? keys[0] ?? "";
  const choices: Record<string, Choice> = {};
  for (const [name, value] of query) {
    if (name.startsWith("from.")) choices[name.slice(5)] = { from: value };
    if (name.startsWith("typed.")) choices[name.slice(6)] = { typed: value };
  }
  return {
    keys,
    master: keys.includes(master) ? master : (keys[0] ?? ""),
    choices,
    all: query.get("all") === "true",
    exclude: query.getAll("exclude"),
    end: query.getAll("end"),
    linked: query.getAll("along").flatMap(readLinked),
    cluster: Number(query.get("cluster")) || null,
    queue: query.get("queue") ?? "",
  };
}

/** Writes a comparison into the query of an address. */
export function writeComparison(comparison: Comparison): URLSearchParams {
  const query = new URLSearchParams();
  if (comparison.cluster !== null) query.set("cluster", String(comparison.cluster));
  if (comparison.queue) query.set("queue", comparison.queue);
  for (const key of comparison.keys) query.append("key", key);
  if (comparison.master !== comparison.keys[0]) query.set("master", comparison.master);
  for (const [field, choice] of Object.entries(comparison.choices)) {
    if ("from" in choice) query.set(`from.${field}`, choice.from);
    else query.set(`typed.${field}`, choice.typed);
  }
  for (const reference of comparison.exclude) query.append("exclude", reference);
  for (const rule of comparison.end) query.append("end", rule);
  for (const merge of comparison.linked)
    query.append("along", JSON.stringify([merge.recordType, merge.master, ...merge.duplicates]));
  if (comparison.all) query.set("all", "true");
  return query;
}

/** What to ask the service to plan. */
export function requestOf(recordType: string, comparison: Comparison): PlanRequest {
  return {
    recordType,
    master: comparison.master,
    duplicates: comparison.keys.filter((key) => key !== comparison.master),
    fields: Object.fromEntries(
      Object.entries(comparison.choices).map(([field, choice]) => [
        field,
        "from" in choice ? { from: choice.from, typed: null } : { from: null, typed: choice.typed },
      ]),
    ),
    exclude: comparison.exclude,
    end: comparison.end,
    linked: comparison.linked,
  };
}

/** Chooses what clears a blocker. */
export function withClearing(comparison: Comparison, clearing: Clearing): Comparison {
  const chosen = (list: string[]) => [...new Set([...list, clearing.name])];
  return clearing.kind === "end"
    ? { ...comparison, end: chosen(comparison.end) }
    : { ...comparison, exclude: chosen(comparison.exclude) };
}

/** Leaves a record out of a comparison, the choices that took its values, and what would have been merged along. */
export function withoutRecord(comparison: Comparison, key: string): Comparison {
  const keys = comparison.keys.filter((other) => other !== key);
  return {
    ...comparison,
    keys,
    linked: [],
    master: comparison.master === key ? (keys[0] ?? "") : comparison.master,
    choices: Object.fromEntries(
      Object.entries(comparison.choices).filter(([, choice]) => !("from" in choice && choice.from === key)),
    ),
  };
}

const ruleWords: Record<string, string> = {
  master: "the master's value",
  "master-unless-blank": "the master's value unless blank",
  newest: "from the record changed last",
  oldest: "from the record created first",
  longest: "the longest",
  "most-common": "the most common",
  largest: "the largest",
  smallest: "the smallest",
  "source-order": "from the source that goes first",
  total: "the sum of all",
  union: "all members, each once",
  append: "all texts, with their origin",
};

/** A survivorship rule in words. */
export function ruleInWords(rule: string): string {
  return ruleWords[rule] ?? rule;
}

/** Why this value stays, in words. */
export function because(field: PlanField, keyOf: (index: number) => string): string {
  if (field.chosenBy === "typed") return "typed in";
  if (field.chosenBy === "overflow") return "lost elsewhere, found room here";
  const from = field.from === null ? "made of several" : `from ${keyOf(field.from)}`;
  return field.chosenBy === "operator" ? `${from}, your choice` : `${from}, rule: ${ruleInWords(field.rule)}`;
}
