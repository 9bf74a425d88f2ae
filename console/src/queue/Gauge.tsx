/** A confidence in words: the nearer to certainty, the more decimals, as many as tell it from what is more certain. */
export function percentOf(percent: number): string {
  const decimals = [0, 1, 2, 3].find((many) => 100 - percent > 10 ** -many) ?? 4;
  // Rounded up it would say more than is known; what is no more than a rounding error is not cut off.
  const down = Math.floor(percent * 10 ** decimals + 1e-6) / 10 ** decimals;
  return `${(percent >= 99 ? down : percent).toFixed(decimals)} %`;
}

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
