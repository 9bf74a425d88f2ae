import { t } from "@lingui/core/macro";
import type { Clearing, LinkedMerge, PlanField, PlanRequest } from "../api/client";

/** What the operator chose for a field. */
export type Choice = { from: string } | { typed: string } | { rule: string };

/** Which fields are shown: those that differ, all, or those that are blank in one record and filled in another. */
export type Shown = "differences" | "all" | "gaps";

/** The ways of showing fields, in the order in which one key goes through them. */
export const ways: Shown[] = ["differences", "all", "gaps"];

/** True if a field is shown. */
export function isShown(field: PlanField, show: Shown): boolean {
  if (show === "all") return true;
  const filled = field.values.filter((value) => value !== null && value.trim() !== "").length;
  return show === "gaps" ? filled > 0 && filled < field.values.length : field.differs || field.changes;
}

/** Days and counts do not add up, and nobody means their sum. */
const sums = ["money"];
const texts = ["text", "long-text"];

/** The rule that makes one value of all those of a field, or null where that means nothing or makes no difference. */
export function madeOf(field: PlanField): string | null {
  const filled = new Set(field.values.filter((value) => value !== null && value.trim() !== ""));
  if (filled.size < 2) return null;
  // A semicolon in a sentence makes no set of it.
  const isSet = [...filled].some((value) =>
    (texts.includes(field.kind) ? /^\[/ : /[;|]|^\[/).test(value ?? ""),
  );
  const rule = sums.includes(field.kind)
    ? "total"
    : isSet || field.rule === "union"
      ? "union"
      : texts.includes(field.kind)
        ? "append"
        : null;
  return rule === field.rule ? null : rule;
}

/** What the rules of {@link madeOf} do. */
export const madeInWords: Record<string, string> = { append: t`Join`, union: t`Unite`, total: t`Add up` };

/** The state of a comparison, all of which stands in the address: it survives a reload and can be sent to somebody. */
export interface Comparison {
  keys: string[];
  master: string;
  choices: Record<string, Choice>;
  show: Shown;
  /** The references whose rows stay with the retired records. */
  exclude: string[];
  /** The rules of at most one by which the rows of the duplicates end. */
  end: string[];
  /** True if decisions that records are not duplicates are reopened by the merge. */
  reopen: boolean;
  /** The merges of linked records that are done along. */
  linked: LinkedMerge[];
  /** The reference whose rows are opened; empty for none. */
  rows: string;
  /** The cluster whose records these are, or null for records that were picked by hand. */
  cluster: number | null;
  /** The filter of the queue from which the cluster was taken, as it stands in an address. */
  queue: string;
}

/**
 * A linked merge in the address: its record type, its master, its duplicates, and last, if there are any, the fields
 * whose values come from other records. Anything else there is passed over.
 */
function readLinked(text: string): LinkedMerge[] {
  try {
    const read = JSON.parse(text) as unknown[];
    const [recordType, master, ...duplicates] = read.filter((each) => typeof each === "string");
    const taken = read.find((each) => typeof each === "object" && each !== null) as
      | Record<string, string>
      | undefined;
    return recordType && master && duplicates.length > 0
      ? [{ recordType, master, duplicates, fields: fieldsFrom(taken ?? {}), exclude: null, end: null }]
      : [];
  } catch {
    return [];
  }
}

/** The choices of a linked merge whose fields take the values of other records. */
export function fieldsFrom(taken: Record<string, string>): NonNullable<LinkedMerge["fields"]> | null {
  const fields = Object.entries(taken).map(([field, from]) => [field, { from, typed: null, rule: null }]);
  return fields.length > 0 ? Object.fromEntries(fields) : null;
}

/** From which records the fields of a linked merge take their values, where that was chosen. */
export function takenOf(merge: LinkedMerge): Record<string, string> {
  return Object.fromEntries(
    Object.entries(merge.fields ?? {}).flatMap(([field, choice]) =>
      choice.from ? [[field, choice.from]] : [],
    ),
  );
}

/** Reads a comparison from the query of an address. */
export function readComparison(query: URLSearchParams): Comparison {
  const keys = [...new Set(query.getAll("key"))];
  const master = query.get("master") ?? keys[0] ?? "";
  const choices: Record<string, Choice> = {};
  for (const [name, value] of query) {
    if (name.startsWith("from.")) choices[name.slice(5)] = { from: value };
    if (name.startsWith("typed.")) choices[name.slice(6)] = { typed: value };
    if (name.startsWith("rule.")) choices[name.slice(5)] = { rule: value };
  }
  return {
    keys,
    master: keys.includes(master) ? master : (keys[0] ?? ""),
    choices,
    show: ways.find((way) => way === query.get("show")) ?? "differences",
    exclude: query.getAll("exclude"),
    end: query.getAll("end"),
    reopen: query.get("reopen") === "true",
    linked: query.getAll("along").flatMap(readLinked),
    rows: query.get("rows") ?? "",
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
    else if ("typed" in choice) query.set(`typed.${field}`, choice.typed);
    else query.set(`rule.${field}`, choice.rule);
  }
  for (const reference of comparison.exclude) query.append("exclude", reference);
  for (const rule of comparison.end) query.append("end", rule);
  if (comparison.reopen) query.set("reopen", "true");
  for (const merge of comparison.linked)
    query.append(
      "along",
      JSON.stringify([
        merge.recordType,
        merge.master,
        ...merge.duplicates,
        ...(merge.fields ? [takenOf(merge)] : []),
      ]),
    );
  if (comparison.rows) query.set("rows", comparison.rows);
  if (comparison.show !== "differences") query.set("show", comparison.show);
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
        { from: null, typed: null, rule: null, ...choice },
      ]),
    ),
    exclude: comparison.exclude,
    end: comparison.end,
    reopen: comparison.reopen,
    linked: comparison.linked,
  };
}

/** Chooses what clears a blocker. */
export function withClearing(comparison: Comparison, clearing: Clearing): Comparison {
  const chosen = (list: string[]) => [...new Set([...list, clearing.name])];
  if (clearing.kind === "reopen") return { ...comparison, reopen: true };
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
    reopen: false,
    linked: [],
    master: comparison.master === key ? (keys[0] ?? "") : comparison.master,
    choices: Object.fromEntries(
      Object.entries(comparison.choices).filter(([, choice]) => !("from" in choice && choice.from === key)),
    ),
  };
}

const ruleWords: Record<string, string> = {
  master: t`the master's value`,
  "master-unless-blank": t`the master's value unless blank`,
  newest: t`from the record changed last`,
  oldest: t`from the record created first`,
  longest: t`the longest`,
  "most-common": t`the most common`,
  largest: t`the largest`,
  smallest: t`the smallest`,
  "source-order": t`from the source that goes first`,
  total: t`the sum of all`,
  union: t`all members, each once`,
  append: t`all texts, with their origin`,
};

/** A survivorship rule in words. */
export function ruleInWords(rule: string): string {
  return ruleWords[rule] ?? rule;
}

/** Why this value stays, in words. */
export function because(field: PlanField, keyOf: (index: number) => string): string {
  if (field.chosenBy === "typed") return t`typed in`;
  if (field.chosenBy === "overflow") return t`moved here from another field`;
  const from = field.from === null ? t`made of several` : t`from ${keyOf(field.from)}`;
  if (field.chosenBy === "operator" && field.from === null) return t`${ruleInWords(field.rule)}, your choice`;
  return field.chosenBy === "operator"
    ? t`${from}, your choice`
    : t`${from}, rule: ${ruleInWords(field.rule)}`;
}
