/** A text of which a comparison shows the first lines only; the rest is in its tooltip and in the editor. */
const longText = 400;

/** A value of the operational database; a blank is said, not left out. */
export function Value({ text, clip }: { text: string | null | undefined; clip?: boolean }) {
  if (text === null || text === undefined || text.trim() === "") return <span className="blank">blank</span>;
  const long = text.length > longText;
  return (
    <span
      className={clip ? "clip" : long ? "clip deep" : undefined}
      dir="auto"
      title={long || (clip && text.length > 60) ? text : undefined}
    >
      {text}
    </span>
  );
}
