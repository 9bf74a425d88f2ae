import { describe, expect, it } from "vitest";
import { clusterAddress, queryOf, queueAddress, readFilter, writeFilter } from "./filter";

const read = (query: string) => readFilter(new URLSearchParams(query));

describe("the queue's filter", () => {
  it("stands in the address, and leaves out what is as usual", () => {
    expect(queueAddress()).toBe("/queue");
    const address = queueAddress({ type: "vendor", who: "me", least: "90", order: "amount" });
    expect(address).toBe("/queue?type=vendor&who=me&least=90&order=amount");
    expect(writeFilter(read(address.split("?")[1] ?? "")).toString()).toBe(address.split("?")[1]);
  });

  it("asks the service for what it says, and for no impossible percentage", () => {
    expect(queryOf(read("type=account&who=nobody&least=200&most=80"), "c.weeks")).toEqual({
      type: "account",
      state: "open",
      assigned: "",
      most: 80,
      order: "confidence",
    });
    expect(queryOf(read("who=me&state=put-off"), "c.weeks")).toMatchObject({
      assigned: "c.weeks",
      state: "put-off",
    });
  });

  it("goes along to the comparison", () => {
    const address = new URL(clusterAddress("vendor", 12, read("type=vendor&order=age")), "http://here");
    expect(address.searchParams.get("cluster")).toBe("12");
    expect(read(address.searchParams.get("queue") ?? "")).toEqual(read("type=vendor&order=age"));
  });
});
