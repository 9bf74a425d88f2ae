/** A value of the operational database; a blank is said, not left out. */
export function Value({ text, clip }: { text: string | null | undefined; clip?: boolean }) {
  if (text === null || text === undefined || text.trim() === "") return <span className="blank">blank</span>;
  return (
    <span
      className={clip ? "clip" : undefined}
      dir="auto"
      title={clip && text.length > 60 ? text : undefined}
    >
      {text}
    </span>
  );
}
