import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { createContext, useContext, useMemo } from "react";
import { differenceOf } from "./difference";

/** Words in names of organisations that are legal forms, in small letters. */
export const LegalForms = createContext<ReadonlySet<string>>(new Set());

/** A text of which a comparison shows the first lines only; the rest is in its tooltip and in the editor. */
const longText = 400;

/** A value of the operational database; a blank is said, not left out. */
export function Value({
  text,
  clip,
  beside,
  kind,
}: {
  text: string | null | undefined;
  clip?: boolean;
  /** A text beside which it is read: the words that it does not have are marked. */
  beside?: string | null | undefined;
  /** The kind of its field: in names of organisations legal forms are set apart. */
  kind?: string | undefined;
}) {
  const known = useContext(LegalForms);
  const forms = kind === "organisation-name" ? known : undefined;
  const pieces = useMemo(
    () => (text && beside ? differenceOf(text, beside, forms) : null),
    [text, beside, forms],
  );
  if (text === null || text === undefined || text.trim() === "")
    return (
      <span className="blank">
        <Trans>blank</Trans>
      </span>
    );
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
          <mark
            key={`${at} ${piece.text}`}
            className={piece.is === "other" ? undefined : "lesser"}
            title={piece.is === "form" ? t`another legal form` : undefined}
          >
            {piece.text}
          </mark>
        ),
      ) ?? text}
    </span>
  );
}
