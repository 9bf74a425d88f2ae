/** A piece of a text, and whether it stands in the other text too. */
export interface Piece {
  text: string;
  same: boolean;
}

/** Longer texts are not compared letter by letter. */
const longest = 240;

/** Texts that have less than this share in common are other texts, not slips of one another. */
const leastInCommon = 0.4;

const graphemes = new Intl.Segmenter(undefined, { granularity: "grapheme" });

/** A text as a reader sees it: accents stay with their letters, and pairs of surrogates together. Plain text has neither. */
function lettersOf(text: string): string[] {
  return /^[\x20-\x7e]*$/.test(text)
    ? text.split("")
    : [...graphemes.segment(text)].map((each) => each.segment);
}

/**
 * The pieces of a text that do not stand in another one, by their longest common subsequence (Wagner and Fischer 1974).
 * Null where marks would not help: equal, very long, or altogether different texts.
 */
export function differenceOf(text: string, other: string): Piece[] | null {
  if (text === other || text.length > longest || other.length > longest) return null;
  const a = lettersOf(text);
  const b = lettersOf(other);
  const width = b.length + 1;
  const common = new Uint16Array((a.length + 1) * width);
  const at = (i: number, j: number) => common[i * width + j] ?? 0;
  for (let i = a.length - 1; i >= 0; i--)
    for (let j = b.length - 1; j >= 0; j--)
      common[i * width + j] = a[i] === b[j] ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1));
  if (at(0, 0) < leastInCommon * Math.max(a.length, b.length)) return null;
  const pieces: Piece[] = [];
  const add = (letter: string, same: boolean) => {
    const last = pieces.at(-1);
    if (last && last.same === same) last.text += letter;
    else pieces.push({ text: letter, same });
  };
  let j = 0;
  for (let i = 0; i < a.length; i++) {
    while (j < b.length && a[i] !== b[j] && at(i, j + 1) >= at(i + 1, j)) j++;
    const same = j < b.length && a[i] === b[j];
    add(a[i] ?? "", same);
    if (same) j++;
  }
  return pieces.some((piece) => !piece.same) ? pieces : null;
}
