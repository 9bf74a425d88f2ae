import { t } from "@lingui/core/macro";
import { Document, isMap, parseDocument } from "yaml";

/** One comparison of a rule, as it stands in its text. */
export interface Comparison {
  field: string;
  is?: string;
  differs?: string;
  at_least?: number;
  within?: number;
  digits?: number;
}

/** What a form shows of a rule; whatever else its text says stays there untouched. */
export interface Rule {
  title: string;
  anyOf: Comparison[][];
  never: Comparison[];
  /** Null where the text does not say it. */
  review: number | null;
  automatic: number | null;
  /** The names of other things that the text says, such as `scope`. */
  others: string[];
}

/** The thresholds of a rule that does not say them, in percent. */
export const usual = { review: 50, automatic: 99 };

/** The score from which a rule proposes: one with comparisons that says nothing asks for no score. */
export function reviewOf(rule: Rule): number {
  return rule.review ?? (rule.anyOf.length > 0 ? 0 : usual.review);
}

const shown = ["title", "any_of", "never", "review", "automatic"];

const list = (value: unknown): unknown[] => (Array.isArray(value) ? value : value ? [value] : []);

/** Reads a rule's text for the form; a text that is no YAML mapping gives what is wrong with it. */
export function readRule(text: string): Rule | string {
  const document = parseDocument(text);
  const [error] = document.errors;
  if (error) return error.message.split("\n")[0] ?? t`It cannot be read.`;
  if (document.contents !== null && !isMap(document.contents))
    return t`A rule is a list of names and values.`;
  const said = (document.toJS() ?? {}) as Record<string, unknown>;
  const number = (value: unknown) => (typeof value === "number" ? value : null);
  return {
    title: typeof said.title === "string" ? said.title : "",
    anyOf: list(said.any_of).map((group) => list(group) as Comparison[]),
    never: list(said.never) as Comparison[],
    review: number(said.review),
    automatic: number(said.automatic),
    others: Object.keys(said).filter((key) => !shown.includes(key)),
  };
}

/** A rule's text with some of its parts changed; comments, and the parts that the form does not know, stay. */
export function changeRule(text: string, change: Partial<Omit<Rule, "others">>): string {
  const read = parseDocument(text);
  const document = isMap(read.contents) ? read : new Document({});
  const put = (key: string, value: unknown) => {
    if (value === null || (Array.isArray(value) && value.length === 0)) {
      document.delete(key);
      return;
    }
    const node = document.createNode(value);
    if (Array.isArray(value) && "items" in (node as object)) {
      // A group of comparisons is read as one line.
      for (const item of (node as unknown as { items: { flow?: boolean }[] }).items) item.flow = true;
    }
    document.set(key, node);
  };
  if (change.title !== undefined) put("title", change.title || null);
  if (change.anyOf !== undefined) put("any_of", change.anyOf);
  if (change.never !== undefined) put("never", change.never);
  if (change.review !== undefined) put("review", change.review);
  if (change.automatic !== undefined) put("automatic", change.automatic);
  return document.toString({ lineWidth: 0, flowCollectionPadding: true });
}
