import { describe, expect, it } from "vitest";
import { chipsOf, clusterAddress, queryOf, queueAddress, readFilter, sortedBy, writeFilter } from "./filter";

const read = (query: string) => readFilter(new URLSearchParams(query));

describe("the queue's filter", () => {
  it("stands in the address, and leaves out what is as usual", () => {
    expect(queueAddress()).toBe("/queue");
    const address = queueAddress({ type: "vendor", who: "me", minScore: "90", order: "amount" });
    expect(address).toBe("/queue?type=vendor&who=me&minScore=90&order=amount");
    expect(writeFilter(read(address.split("?")[1] ?? "")).toString()).toBe(address.split("?")[1]);
  });

  it("asks the service for what it says, and for no impossible percentage", () => {
    expect(queryOf(read("type=account&who=nobody&minScore=200&maxScore=80"), "c.weeks")).toEqual({
      type: "account",
      state: "open",
      assigned: "",
      maxScore: 80,
      order: "confidence",
    });
    expect(queryOf(read("who=me&state=postponed"), "c.weeks")).toMatchObject({
      assigned: "c.weeks",
      state: "postponed",
    });
  });

  it("turns the order of a column round when its head is pressed again", () => {
    const first = { ...read(""), ...sortedBy(read(""), "amount") };
    expect(writeFilter(first).toString()).toBe("order=amount");
    const second = { ...first, ...sortedBy(first, "amount") };
    expect(writeFilter(second).toString()).toBe("order=amount&reverse=true");
    expect(queryOf(second, "c.weeks")).toMatchObject({ order: "amount", reverse: true });
    expect(sortedBy(second, "amount")).toEqual({ order: "amount", reverse: "" });
  });

  it("says what leaves groups out, and how to give it up", () => {
    const filter = read("who=me&minScore=90&rule=ready&type=vendor");
    expect(chipsOf(filter).map((chip) => chip.text)).toEqual(["Assigned to me", "from 90 %", "rule ready"]);
    const without = Object.assign({}, filter, ...chipsOf(filter).map((chip) => chip.without));
    expect(writeFilter(without).toString()).toBe("type=vendor");
  });

  it("goes along to the comparison", () => {
    const address = new URL(clusterAddress("vendor", 12, read("type=vendor&order=age")), "http://here");
    expect(address.searchParams.get("cluster")).toBe("12");
    expect(read(address.searchParams.get("queue") ?? "")).toEqual(read("type=vendor&order=age"));
  });
});
