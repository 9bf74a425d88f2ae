import { describe, expect, it } from "vitest";
import type { PlanField } from "../api/client";
import {
  because,
  isShown,
  madeOf,
  readComparison,
  requestOf,
  withoutRecord,
  writeComparison,
} from "./choices";

const address =
  "key=1&key=2&key=3&master=2&from.phone=3&typed.name=A+%26+B&exclude=notes&end=running&reopen=true&along=%5B%22vessel%22,%2212%22,%2213%22%5D&rule.remark=append&show=all&rows=bills";

const vessels = {
  recordType: "vessel",
  master: "12",
  duplicates: ["13"],
  fields: null,
  exclude: null,
  end: null,
};

describe("a comparison in the address", () => {
  it("survives being written and read", () => {
    const comparison = readComparison(new URLSearchParams(address));
    expect(comparison).toEqual({
      keys: ["1", "2", "3"],
      master: "2",
      choices: { phone: { from: "3" }, name: { typed: "A & B" }, remark: { rule: "append" } },
      show: "all",
      exclude: ["notes"],
      end: ["running"],
      reopen: true,
      linked: [vessels],
      rows: "bills",
      cluster: null,
      queue: "",
    });
    expect(readComparison(writeComparison(comparison))).toEqual(comparison);
  });

  it("names each record once, and takes the first as master unless another of them is named", () => {
    expect(readComparison(new URLSearchParams("key=1&key=1&key=2")).keys).toEqual(["1", "2"]);
    expect(readComparison(new URLSearchParams("key=1&key=2&master=9")).master).toBe("1");
    expect(readComparison(new URLSearchParams("")).keys).toEqual([]);
  });

  it("becomes a request with the others as duplicates", () => {
    expect(requestOf("vendor", readComparison(new URLSearchParams(address)))).toEqual({
      recordType: "vendor",
      master: "2",
      duplicates: ["1", "3"],
      fields: {
        phone: { from: "3", typed: null, rule: null },
        name: { from: null, typed: "A & B", rule: null },
        remark: { from: null, typed: null, rule: "append" },
      },
      exclude: ["notes"],
      end: ["running"],
      reopen: true,
      linked: [vessels],
    });
  });

  it("keeps what was taken for what is merged along", () => {
    const along = '["contact","1","2",{"phone":"2"}]';
    const comparison = readComparison(new URLSearchParams({ along }));
    expect(comparison.linked).toEqual([
      {
        recordType: "contact",
        master: "1",
        duplicates: ["2"],
        fields: { phone: { from: "2", typed: null, rule: null } },
        exclude: null,
        end: null,
      },
    ]);
    expect(writeComparison(comparison).get("along")).toBe(along);
  });

  it("passes over what nobody can read", () => {
    for (const along of ["", "nonsense", "[]", '["vessel","12"]', "7"])
      expect(readComparison(new URLSearchParams({ along })).linked).toEqual([]);
  });

  it("forgets what was taken from a record that is left out", () => {
    const without = withoutRecord(readComparison(new URLSearchParams(address)), "3");
    expect(without.keys).toEqual(["1", "2"]);
    expect(without.linked).toEqual([]);
    expect(without.choices).toEqual({ name: { typed: "A & B" }, remark: { rule: "append" } });
    expect(withoutRecord(without, "2").master).toBe("1");
  });
});

describe("because", () => {
  const field = { rule: "newest", from: 1 } as PlanField;
  const keyOf = (index: number) => `V${index}`;

  it("says in words how a value came to stay", () => {
    expect(because({ ...field, chosenBy: "rule" }, keyOf)).toBe(
      "from V1, rule: from the record changed last",
    );
    expect(because({ ...field, chosenBy: "operator" }, keyOf)).toBe("from V1, your choice");
    expect(because({ ...field, chosenBy: "typed", from: null }, keyOf)).toBe("typed in");
    expect(because({ ...field, rule: "append", chosenBy: "operator", from: null }, keyOf)).toBe(
      "all texts, with their origin, your choice",
    );
  });
});

describe("a field", () => {
  const field = (kind: string, values: (string | null)[], rule = "master-unless-blank") =>
    ({ kind, rule, values, differs: true, changes: false }) as PlanField;

  it("is made of all its values where that means something", () => {
    expect(madeOf(field("money", ["1", "2"]))).toBe("total");
    expect(madeOf(field("integer", ["30", "75"]))).toBeNull();
    expect(madeOf(field("long-text", ["a", "b"]))).toBe("append");
    expect(madeOf(field("code", ["red; green", "blue"]))).toBe("union");
    expect(madeOf(field("long-text", ["Late; ask Maud.", "b"]))).toBe("append");
    expect(madeOf(field("code", ['["red"]', '["blue"]']))).toBe("union");
    expect(madeOf(field("email", ["a@b.example", "c@d.example"]))).toBeNull();
    expect(madeOf(field("long-text", ["a", "a", null]))).toBeNull();
    expect(madeOf(field("long-text", ["a", "b"], "append"))).toBeNull();
  });

  it("is shown if it differs, or only where something is missing", () => {
    expect(isShown(field("text", ["a", " "]), "gaps")).toBe(true);
    expect(isShown(field("text", ["a", "b"]), "gaps")).toBe(false);
    expect(isShown(field("text", [null, ""]), "gaps")).toBe(false);
    expect(isShown({ ...field("text", ["a", "a"]), differs: false }, "differences")).toBe(false);
    expect(isShown({ ...field("text", ["a", "a"]), differs: false }, "all")).toBe(true);
  });
});
