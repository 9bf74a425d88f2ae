import { describe, expect, it } from "vitest";
import { amount, day, figure, moment, since } from "./format";

describe("amount", () => {
  it("groups digits and shows at least two decimals", () => {
    expect(amount("1234567.5")).toBe("1,234,567.50");
    expect(amount("-12")).toBe("-12.00");
    expect(amount("0")).toBe("0.00");
  });

  it("loses no digit, however many there are", () => {
    expect(amount("90071992547409931.001")).toBe("90,071,992,547,409,931.001");
  });

  it("leaves what is no amount as it is", () => {
    expect(amount("n/a")).toBe("n/a");
    expect(amount(null)).toBe("");
  });
});

describe("day and moment", () => {
  it("shows the day that is written, in any time zone", () => {
    expect(day("2026-03-09")).toBe("Mar 9, 2026");
    expect(day("2026-03-09T23:59:00Z")).toBe("Mar 9, 2026");
    expect(day("someday")).toBe("someday");
    expect(day(null)).toBe("");
  });

  it("leaves what is no point in time as it is", () => {
    expect(moment("yesterday")).toBe("yesterday");
    expect(moment("")).toBe("");
  });
});

describe("figure", () => {
  it("shows each operation in its way", () => {
    expect(figure("count", "1200")).toBe("1,200");
    expect(figure("count", null)).toBe("0");
    expect(figure("sum", "1200.5")).toBe("1,200.50");
    expect(figure("last", "2026-03-09")).toBe("Mar 9, 2026");
  });
});

describe("since", () => {
  it("says how long ago it was, in the largest unit that fits", () => {
    const now = Date.parse("2026-03-09T12:00:00Z");
    expect(since("2026-03-09T11:59:30Z", now)).toBe("30 sec. ago");
    expect(since("2026-03-09T09:00:00Z", now)).toBe("3 hr. ago");
    expect(since("2026-03-08T11:00:00Z", now)).toBe("yesterday");
    expect(since("2026-03-09T12:00:09Z", now)).toBe("now");
  });
});
