import {
  Bar,
  BarChart,
  CartesianGrid,
  Legend,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";

/** One row of bars above each other. */
export interface BarRow {
  name: string;
  values: Record<string, number>;
}

/** How each series is drawn: the shapes differ, so that they can be told apart without colour. */
const fills = ["url(#bars-full)", "url(#bars-slant)", "url(#bars-dots)"];

/** Bars over names, one series upon the other. The same numbers stand in a table beside it: the picture is hidden from readers. */
export function Bars({
  rows,
  series,
  lines = [],
  open,
}: {
  rows: BarRow[];
  series: string[];
  /** Thresholds: the name of the row in which they lie, how far along it from 0 to 1, and what they are called. */
  lines?: { at: string; along: number; label: string }[];
  open?: (row: BarRow) => void;
}) {
  const data = rows.map((row) => ({ name: row.name, ...row.values }));
  return (
    <div className="bars" aria-hidden>
      <ResponsiveContainer width="100%" height={170}>
        <BarChart
          data={data}
          margin={{ top: 30, right: 40, bottom: 0, left: -18 }}
          accessibilityLayer={false}
        >
          <defs>
            <pattern id="bars-full" width="4" height="4" patternUnits="userSpaceOnUse">
              <rect width="4" height="4" fill="var(--kf-water)" />
            </pattern>
            <pattern
              id="bars-slant"
              width="6"
              height="6"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <rect width="6" height="6" fill="var(--kf-paper)" />
              <rect width="3" height="6" fill="var(--kf-brass)" />
            </pattern>
            <pattern id="bars-dots" width="5" height="5" patternUnits="userSpaceOnUse">
              <rect width="5" height="5" fill="var(--kf-paper)" />
              <circle cx="2.5" cy="2.5" r="1.5" fill="var(--kf-ink-2)" />
            </pattern>
          </defs>
          <CartesianGrid vertical={false} stroke="var(--kf-line)" />
          <XAxis dataKey="name" tick={{ fontSize: 12, fill: "var(--kf-ink-2)" }} stroke="var(--kf-line)" />
          <YAxis
            allowDecimals={false}
            tick={{ fontSize: 12, fill: "var(--kf-ink-2)" }}
            stroke="var(--kf-line)"
          />
          <Tooltip
            isAnimationActive={false}
            cursor={{ fill: "var(--kf-water-soft)" }}
            contentStyle={{
              background: "var(--kf-paper)",
              border: "1px solid var(--kf-line)",
              color: "var(--kf-ink)",
            }}
            labelStyle={{ color: "var(--kf-ink-2)" }}
            itemStyle={{ color: "var(--kf-ink)" }}
          />
          {series.length > 1 && (
            <Legend
              formatter={(name) => <span style={{ color: "var(--kf-ink)", fontSize: 13 }}>{name}</span>}
            />
          )}
          {series.map((name, at) => (
            <Bar
              key={name}
              dataKey={name}
              stackId="all"
              fill={fills[at % fills.length] ?? ""}
              stroke="var(--kf-ink-2)"
              strokeWidth={0.5}
              maxBarSize={46}
              isAnimationActive={false}
              {...(open && {
                cursor: "pointer",
                onClick: (_: unknown, index: number) => rows[index] && open(rows[index]),
              })}
            />
          ))}
          {lines.map((line) => (
            <ReferenceLine
              key={line.label}
              x={line.at}
              stroke="var(--kf-ink)"
              strokeDasharray="4 3"
              position={line.along < 0.34 ? "start" : line.along < 0.67 ? "middle" : "end"}
              label={{ value: line.label, position: "top", offset: 10, fontSize: 12, fill: "var(--kf-ink)" }}
            />
          ))}
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}
