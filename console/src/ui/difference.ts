import { diffArrays } from "diff";

/** Whether another text has this piece: as it is, only in other letter case, or not at all. */
export type Likeness = "same" | "case" | "other";

/** A piece of a text. */
export interface Piece {
  text: string;
  is: Likeness;
}

/** Longer texts are not compared: they are read in full. */
const longest = 2000;

const segmenter = new Intl.Segmenter(undefined, { granularity: "word" });

/** A text as a reader sees it: its words, and what is between them. */
const wordsOf = (text: string) => [...segmenter.segment(text)].map((each) => each.segment);

const folded = (word: string) => word.normalize("NFC").toLowerCase();

const isWord = (text: string) => /[\p{L}\p{N}]/u.test(text);

/**
 * The pieces of a text beside another one, compared word by word (Myers 1986); a word in other letter case is one of its
 * own. Null where marks would not help: equal, very long, or texts without a word in common.
 */
export function differenceOf(text: string, other: string): Piece[] | null {
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
  for (const part of diffArrays(others, words, { comparator: (a, b) => folded(a) === folded(b) })) {
    if (part.removed) beside += part.count;
    else
      for (let each = 0; each < part.count; each++) {
        const word = words[at++] ?? "";
        if (part.added) add(word, "other");
        else {
          if (isWord(word)) inCommon++;
          add(word, word === others[beside++] ? "same" : "case");
        }
      }
  }
  return inCommon > 0 && pieces.some((piece) => piece.is !== "same") ? pieces : null;
}
