import { expect, test } from "vitest";
import { percentOf } from "./Gauge";

test.each([
  [36.4, "36 %"],
  [98.4, "98 %"],
  [99.24, "99.2 %"],
  [99.95, "99.95 %"],
  [99.9689, "99.96 %"],
  [99.9972, "99.997 %"],
  [99.9999, "99.9999 %"],
])("what is nearly certain has as many decimals as tell it apart: %s", (percent, words) => {
  expect(percentOf(percent)).toBe(words);
});
