import { useMemo } from "react";
import { differenceOf } from "./difference";

/** A text of which a comparison shows the first lines only; the rest is in its tooltip and in the editor. */
const longText = 400;

/** A value of the operational database; a blank is said, not left out. */
export function Value({
  text,
  clip,
  beside,
}: {
  text: string | null | undefined;
  clip?: boolean;
  /** A text beside which it is read: the words that it does not have are marked. */
  beside?: string | null | undefined;
}) {
  const pieces = useMemo(() => (text && beside ? differenceOf(text, beside) : null), [text, beside]);
  if (text === null || text === undefined || text.trim() === "") return <span className="blank">blank</span>;
  const long = text.length > longText;
  return (
    <span
      className={clip ? "clip" : long ? "clip deep" : undefined}
      dir="auto"
      title={long || (clip && text.length > 60) ? text : undefined}
    >
      {pieces?.map((piece, at) =>
        piece.is === "same" ? (
          piece.text
        ) : (
          <mark key={`${at} ${piece.text}`} className={piece.is === "case" ? "letter-case" : undefined}>
            {piece.text}
          </mark>
        ),
      ) ?? text}
    </span>
  );
}
