/** A confidence in words: near certainty a decimal more. */
export const percentOf = (percent: number) =>
  `${percent >= 99.95 ? "100" : percent.toFixed(percent >= 99 ? 1 : 0)} %`;

/** How sure it is: a level, and the number beside it. */
export function Gauge({ percent }: { percent: number }) {
  return (
    <span className="gauge">
      <span className="tube" aria-hidden>
        <span style={{ height: `${Math.max(4, percent)}%` }} />
      </span>
      {percentOf(percent)}
    </span>
  );
}
