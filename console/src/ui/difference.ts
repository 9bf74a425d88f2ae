import { diffArrays } from "diff";

/** Whether another text has this piece: as it is, only in other letter case, or not at all; "form" is a legal form. */
export type Likeness = "same" | "case" | "form" | "other";

/** A piece of a text. */
export interface Piece {
  text: string;
  is: Likeness;
}

/** Longer texts are not compared: they are read in full. */
const longest = 2000;

const segmenter = new Intl.Segmenter(undefined, { granularity: "word" });

/** A text as a reader sees it: its words, and what is between them; "A/S" and "B.V" are words, as "AS" and "BV" are. */
const wordsOf = (text: string) =>
  [...segmenter.segment(text)].reduce<string[]>((words, { segment }) => {
    const [before, mark] = words.slice(-2);
    // Browsers do not agree about where words with full stops end.
    if ((mark === "/" || mark === ".") && isShort(before) && isShort(segment))
      words.splice(-2, 2, `${before}${mark}${segment}`);
    else words.push(segment);
    return words;
  }, []);

const isShort = (word: string | undefined) => /^\p{L}{1,2}([./]\p{L}{1,2})*$/u.test(word ?? "");

/** A word as legal forms are listed: without the full stops and slashes that are written or not. */
const asForm = (word: string) => folded(word).replace(/[./]/g, "");

const folded = (word: string) => word.normalize("NFC").toLowerCase();

const isWord = (text: string) => /[\p{L}\p{N}]/u.test(text);

/**
 * The pieces of a text beside another one, compared word by word (Myers 1986); a word in other letter case is one of its
 * own, and so is a legal form that only one of two names has. Null where marks would not help: equal, very long, or texts
 * without a word in common.
 */
export function differenceOf(
  text: string,
  other: string,
  legalForms: ReadonlySet<string> = new Set(),
): Piece[] | null {
  if (text === other || text.length > longest || other.length > longest) return null;
  const words = wordsOf(text);
  const others = wordsOf(other);
  const pieces: Piece[] = [];
  let [at, beside, inCommon] = [0, 0, 0];
  const add = (word: string, is: Likeness) => {
    const last = pieces.at(-1);
    if (last?.is === is) last.text += word;
    else pieces.push({ text: word, is });
  };
  // What stands behind a legal form, such as its full stop, is part of it.
  const isForm = (word: string) =>
    legalForms.has(asForm(word)) || (!isWord(word) && pieces.at(-1)?.is === "form");
  for (const part of diffArrays(others, words, { comparator: (a, b) => folded(a) === folded(b) })) {
    if (part.removed) beside += part.count;
    else
      for (let each = 0; each < part.count; each++) {
        const word = words[at++] ?? "";
        if (part.added) add(word, isForm(word) ? "form" : "other");
        else {
          if (isWord(word)) inCommon++;
          add(word, word === others[beside++] ? "same" : "case");
        }
      }
  }
  return inCommon > 0 && pieces.some((piece) => piece.is !== "same") ? pieces : null;
}
