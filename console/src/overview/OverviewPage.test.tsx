import { describe, expect, it } from "vitest";
import { splitAt, takenBack } from "./OverviewPage";

const bands = [
  { from: 85, to: 90, clusters: 4 },
  { from: 90, to: 95, clusters: 7 },
  { from: 95, to: 100, clusters: 20 },
];

describe("the histogram", () => {
  it("divides the band in which certain groups begin", () => {
    expect(splitAt({ automatic: 99, certain: 15 }, bands)).toEqual([
      ...bands.slice(0, 2),
      { from: 95, to: 99, clusters: 5 },
      { from: 99, to: 100, clusters: 15 },
    ]);
    expect(splitAt({ automatic: 92, certain: 23 }, bands)).toEqual([
      bands[0],
      { from: 90, to: 92, clusters: 4 },
      { from: 92, to: 95, clusters: 3 },
      bands[2],
    ]);
  });

  it("divides none where a band begins, or without a threshold", () => {
    expect(splitAt({ automatic: 95, certain: 20 }, bands)).toEqual(bands);
    expect(splitAt({ automatic: null, certain: 0 }, bands)).toEqual(bands);
  });
});

describe("what was taken back", () => {
  it("is a share of what was made, if anything was", () => {
    expect(takenBack(3, 12)).toBe("3, while 12 were made (25 %)");
    expect(takenBack(1, 0)).toBe("1, while 0 were made");
  });
});
