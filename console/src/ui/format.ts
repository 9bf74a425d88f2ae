import { locale } from "../language";

/** A point in time as the operator's locale writes it; a text that is none stays as it is. */
export function moment(text: string | null | undefined): string {
  if (!text) return "";
  const time = new Date(text);
  return Number.isNaN(time.getTime())
    ? text
    : time.toLocaleString(locale, { dateStyle: "medium", timeStyle: "short" });
}

/** The time of day of a point in time, as the operator's locale writes it. */
export function timeOfDay(text: string): string {
  return new Date(text).toLocaleTimeString(locale, { timeStyle: "short" });
}

/** The day of a point in time where the operator is, with its weekday. */
export function weekday(text: string): string {
  return new Date(text).toLocaleDateString(locale, { dateStyle: "full" });
}

/** The day of a point in time or of a date. */
export function day(text: string | null | undefined): string {
  if (!text) return "";
  const match = /^(\d{4})-(\d{2})-(\d{2})/.exec(text);
  if (!match) return text;
  const time = new Date(Date.UTC(Number(match[1]), Number(match[2]) - 1, Number(match[3])));
  return time.toLocaleDateString(locale, { dateStyle: "medium", timeZone: "UTC" });
}

const units: [Intl.RelativeTimeFormatUnit, number][] = [
  ["day", 86_400],
  ["hour", 3_600],
  ["minute", 60],
];

/** How long ago a point in time was, in the largest unit that fits. */
export function since(text: string, now = Date.now()): string {
  const seconds = Math.max(0, (now - new Date(text).getTime()) / 1000);
  const [unit, length] = units.find(([, each]) => seconds >= each) ?? ["second", 1];
  return new Intl.RelativeTimeFormat(locale, { numeric: "auto", style: "short" }).format(
    -Math.floor(seconds / length),
    unit,
  );
}

/**
 * An exact decimal with the locale's separators and at least two decimals. The digits are never turned into a
 * floating-point number, so that none is lost.
 */
export function amount(text: string | null | undefined): string {
  if (!text) return "";
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (!match) return text;
  const parts = new Intl.NumberFormat(locale, { minimumFractionDigits: 2 }).formatToParts(1.25);
  const point = parts.find((part) => part.type === "decimal")?.value ?? ".";
  const whole = BigInt(match[2] ?? "0").toLocaleString(locale);
  return `${match[1]}${whole}${point}${(match[3] ?? "").padEnd(2, "0")}`;
}

/** A figure as its operation wants it. */
export function figure(operation: string, text: string | null | undefined): string {
  if (operation === "sum") return amount(text);
  if (operation === "count") return text ? number(Number(text)) : "0";
  return day(text);
}

/** A count with the locale's separators. */
export function number(count: number): string {
  return count.toLocaleString(locale);
}

/** Names one after another, as the language of the texts puts it. */
export function listed(names: string[]): string {
  return new Intl.ListFormat(locale).format(names);
}
