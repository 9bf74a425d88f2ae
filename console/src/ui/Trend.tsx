import { plural, t } from "@lingui/core/macro";
import { number } from "./format";

const width = 560;
const height = 96;
const foot = 18;

/** A number from day to day, as a line over the days; each point says its day and number. */
export function Trend({ points }: { points: { name: string; value: number }[] }) {
  const most = Math.max(1, ...points.map((point) => point.value));
  const step = width / Math.max(1, points.length - 1);
  const at = (index: number, value: number) =>
    [index * step, 6 + (height - foot - 6) * (1 - value / most)] as const;
  const line = points.map((point, index) => at(index, point.value).join(",")).join(" ");
  const [first, last] = [points[0], points.at(-1)];
  if (!first || !last) return null;
  return (
    <svg
      className="trend"
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={t`From ${number(first.value)} on ${first.name} to ${number(last.value)} on ${last.name}; ${plural(most, { one: "# group", other: "# groups" })} at most`}
    >
      <polygon className="area" points={`0,${height - foot} ${line} ${width},${height - foot}`} />
      <polyline className="line" points={line} />
      {points.map((point, index) => {
        const [x, y] = at(index, point.value);
        return (
          <g key={point.name}>
            <rect x={x - step / 2} y={0} width={step} height={height - foot} fill="transparent">
              <title>{`${point.name}: ${number(point.value)}`}</title>
            </rect>
            {(index === 0 || index === points.length - 1) && <circle cx={x} cy={y} r={3} />}
          </g>
        );
      })}
      <text x={0} y={height - 4}>
        {first?.name}
      </text>
      <text x={width} y={height - 4} textAnchor="end">
        {last?.name}
      </text>
    </svg>
  );
}
