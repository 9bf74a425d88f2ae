import { Trans } from "@lingui/react/macro";
import { type ReactNode, useId, useRef } from "react";
import { number } from "./format";
import { useWidth } from "./useWidth";

/** One row of bars above each other. */
export interface BarRow {
  name: string;
  /** One for each series. */
  values: number[];
}

/** The drawing in pixels: its height, and the room around the bars for what is written there. */
const height = 170;
const room = { top: 30, right: 16, bottom: 24, left: 40 };

const widestBar = 46;

/** How many lines across there are at most, above the one at 0. */
const mostLines = 4;

/** How each series is drawn: the shapes differ, so that they can be told apart without colour. */
const patterns = ["full", "slant", "dots"] as const;

/** The distance of the lines across: 1, 2 or 5 times a power of ten. */
function stepFor(most: number): number {
  for (let power = 1; ; power *= 10)
    for (const factor of [1, 2, 5]) if (factor * power * mostLines >= most) return factor * power;
}

/** Bars over names, one series upon the other. The same numbers stand in a table beside it: the picture is hidden from readers. */
export function Bars({
  rows,
  series,
  lines = [],
  open,
  children,
}: {
  rows: BarRow[];
  series: string[];
  /** Thresholds: the name of the row in which they lie, how far along it from 0 to 1, and what they are called. */
  lines?: { at: string; along: number; label: string }[];
  open?: (row: BarRow) => void;
  /** What lies over the plot: from its left to its right edge, and from the top down to the names. */
  children?: ReactNode;
}) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref);
  const id = useId();
  const fill = (at: number) => `url(#${id}${patterns[at % patterns.length]})`;
  const totals = rows.map((row) => row.values.reduce((sum, value) => sum + value, 0));
  const step = stepFor(Math.max(1, ...totals));
  const most = Math.max(step, Math.ceil(Math.max(0, ...totals) / step) * step);
  const base = height - room.bottom;
  const high = (value: number) => (value / most) * (base - room.top);
  const band = (Math.max(0, width - room.left - room.right) || 1) / Math.max(1, rows.length);
  const bar = Math.min(widestBar, band * 0.7);
  const said = (row: BarRow) =>
    [row.name, ...series.map((name, at) => `${name}: ${number(row.values[at] ?? 0)}`)].join("\n");
  const drawing = (
    <div className="bars" aria-hidden ref={ref}>
      <svg width={width} height={height}>
        <title>
          <Trans>Bars</Trans>
        </title>
        <defs>
          <pattern id={`${id}full`} width="4" height="4" patternUnits="userSpaceOnUse">
            <rect width="4" height="4" fill="var(--kf-water)" />
          </pattern>
          <pattern
            id={`${id}slant`}
            width="6"
            height="6"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="6" height="6" fill="var(--kf-paper)" />
            <rect width="3" height="6" fill="var(--kf-brass)" />
          </pattern>
          <pattern id={`${id}dots`} width="5" height="5" patternUnits="userSpaceOnUse">
            <rect width="5" height="5" fill="var(--kf-paper)" />
            <circle cx="2.5" cy="2.5" r="1.5" fill="var(--kf-ink-2)" />
          </pattern>
        </defs>
        {Array.from({ length: most / step + 1 }, (_, at) => base - high(at * step)).map((y, at) => (
          <g key={y}>
            <line className="rule" x1={room.left} x2={width - room.right} y1={y} y2={y} />
            <text x={room.left - 6} y={y + 4} textAnchor="end">
              {number(at * step)}
            </text>
          </g>
        ))}
        {rows.map((row, at) => {
          const middle = room.left + band * (at + 0.5);
          let below = base;
          return (
            // biome-ignore lint/a11y/noStaticElementInteractions: hidden from readers, who have the table's links
            <g
              key={row.name}
              className={open ? "opens" : undefined}
              onClick={open ? () => open(row) : undefined}
            >
              <title>{said(row)}</title>
              <rect
                className="column"
                x={middle - band / 2}
                y={room.top}
                width={band}
                height={base - room.top}
              />
              {series.map((name, place) => {
                const part = high(row.values[place] ?? 0);
                below -= part;
                return (
                  part > 0 && (
                    <rect
                      key={name}
                      className="part"
                      x={middle - bar / 2}
                      y={below}
                      width={bar}
                      height={part}
                      fill={fill(place)}
                    />
                  )
                );
              })}
              <text x={middle} y={base + 16} textAnchor="middle">
                {row.name}
              </text>
            </g>
          );
        })}
        {lines.map((line) => {
          const at = rows.findIndex((row) => row.name === line.at);
          const x = room.left + band * (at + line.along);
          return (
            at >= 0 && (
              <g key={line.label}>
                <line className="threshold" x1={x} x2={x} y1={room.top - 6} y2={base} />
                <text className="said" x={x} y={room.top - 12} textAnchor={at === 0 ? "start" : "middle"}>
                  {line.label}
                </text>
              </g>
            )
          );
        })}
      </svg>
      {series.length > 1 && (
        <div className="legend">
          {series.map((name, at) => (
            <span key={name}>
              <svg width={14} height={12}>
                <title>{name}</title>
                <rect className="part" x={1} y={1} width={12} height={10} fill={fill(at)} />
              </svg>
              {name}
            </span>
          ))}
        </div>
      )}
    </div>
  );
  if (!children) return drawing;
  return (
    <div className="bars-under">
      {drawing}
      <div className="over" style={{ left: room.left, right: room.right, height: base }}>
        {children}
      </div>
    </div>
  );
}
