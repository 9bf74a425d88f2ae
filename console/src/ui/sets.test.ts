import { describe, expect, it } from "vitest";
import { readSet } from "./sets";

describe("a set in a value", () => {
  it("is read and written in its own form", () => {
    for (const [text, members] of [
      ["red; green", ["red", "green"]],
      ["red|green", ["red", "green"]],
      ['["red","green"]', ["red", "green"]],
      ["red", ["red"]],
      ["", []],
      ["[not json", ["[not json"]],
    ] as [string, string[]][]) {
      const read = readSet(text, []);
      expect(read.members).toEqual(members);
      expect(read.write(read.members)).toBe(text);
    }
  });

  it("learns its separator from the other values", () => {
    expect(readSet("red", ["blue | green", null]).write(["red", "blue"])).toBe("red| blue");
    expect(readSet("a,b;c", []).members).toEqual(["a,b", "c"]);
  });
});
