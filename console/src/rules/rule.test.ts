import { describe, expect, it } from "vitest";
import { changeRule, type Rule, readRule, reviewOf } from "./rule";

const text = `# agreed with audit
any_of:
  - [{ field: tax_number, is: same-digits }, { field: name, is: monge-elkan, at_least: 70 }]
  - { field: phone, is: same-phone, digits: 7 }
scope: # not the closed ones
  - { field: status, not_in: [closed] }
review: 60
`;

describe("a rule's text", () => {
  it("is read for the form", () => {
    const rule = readRule(text) as Rule;
    expect(rule.anyOf).toEqual([
      [
        { field: "tax_number", is: "same-digits" },
        { field: "name", is: "monge-elkan", at_least: 70 },
      ],
      [{ field: "phone", is: "same-phone", digits: 7 }],
    ]);
    expect(rule.review).toBe(60);
    expect(rule.automatic).toBeNull();
    expect(rule.others).toEqual(["scope"]);
  });

  it("keeps its comments and what the form does not know", () => {
    const changed = changeRule(text, {
      review: 75,
      never: [{ field: "city", differs: "exact" }],
      title: "Tax",
    });
    expect(changed).toContain("# agreed with audit");
    expect(changed).toContain("# not the closed ones");
    expect(changed).toContain("not_in: [ closed ]");
    expect(changed).toContain("- { field: city, differs: exact }");
    const rule = readRule(changed) as Rule;
    expect([rule.title, rule.review, rule.anyOf.length]).toEqual(["Tax", 75, 2]);
  });

  it("loses what is emptied, and begins from nothing", () => {
    const rule = readRule(changeRule(text, { anyOf: [], review: null })) as Rule;
    expect(rule.anyOf).toEqual([]);
    expect(rule.others).toEqual(["scope"]);
    expect(readRule(changeRule("", { automatic: 95 }))).toMatchObject({ automatic: 95, anyOf: [] });
  });

  it("says what is wrong with a text that is none", () => {
    expect(readRule("any_of: [1, 2")).toMatch(/flow/i);
    expect(readRule("- a")).toBe("A rule is a list of names and values.");
  });

  it("asks for the usual score only where nothing else decides", () => {
    expect(reviewOf(readRule("") as Rule)).toBe(50);
    expect(reviewOf(readRule("any_of: [[{ field: name, is: exact }]]") as Rule)).toBe(0);
    expect(reviewOf(readRule(text) as Rule)).toBe(60);
  });
});
