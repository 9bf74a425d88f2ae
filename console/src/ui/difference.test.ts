import { describe, expect, it } from "vitest";
import { differenceOf } from "./difference";

const marks = {
  same: (text: string) => text,
  case: (text: string) => `(${text})`,
  form: (text: string) => `{${text}}`,
  other: (text: string) => `[${text}]`,
};
const marked = (text: string, other: string, forms: string[] = []) =>
  differenceOf(text, other, new Set(forms))
    ?.map((piece) => marks[piece.is](piece.text))
    .join("");

describe("the difference of two texts", () => {
  it("marks the words that only one of them has", () => {
    expect(marked("Gannett Chandlery Limited", "Gannet Chandlery Ltd")).toBe("[Gannett] Chandlery [Limited]");
    expect(marked("01632 960118", "01632 960181")).toBe("01632 [960118]");
    expect(marked("V-01002", "V-01001")).toBe("V-[01002]");
    expect(marked("12a Fish Street, Ternhaven", "12 Fish Street")).toBe("[12a] Fish Street[, Ternhaven]");
  });

  it("sets a word in other letter case apart from another word", () => {
    expect(marked("BRACKWATER Oak A/S", "Brackwater Oak AS")).toBe("(BRACKWATER) Oak [A/S]");
  });

  it("sets a legal form apart from a word that makes it another name", () => {
    expect(marked("Gannett Chandlery Limited", "Gannet Chandlery Ltd", ["ltd", "limited"])).toBe(
      "[Gannett] Chandlery {Limited}",
    );
    expect(marked("Brackwater A/S", "Brackwater AS", ["as"])).toBe("Brackwater {A/S}");
    expect(marked("Brackwater B.V.", "Brackwater BV", ["bv"])).toBe("Brackwater {B.V.}");
    expect(marked("Kelpie S.r.l.", "Kelpie SRL", ["srl"])).toBe("Kelpie {S.r.l.}");
    expect(marked("PLC Gannet", "Gannet", ["plc"])).toBe("{PLC }Gannet");
  });

  it("marks nothing where the other one only has more", () => {
    expect(marked("Gannet", "Gannet Chandlery")).toBeUndefined();
  });

  it("keeps letters with their accents, pairs of surrogates, and words of any script together", () => {
    expect(marked("Zoe\u0301 Ødegaard", "Zoe Ødegaard")).toBe("[Zoe\u0301] Ødegaard");
    expect(marked("Quay 🦆🚤", "Quay 🦆")).toBe("Quay 🦆[🚤]");
    expect(marked("شركة الميناء القديم", "شركة الميناء")).toBe("شركة الميناء[ القديم]");
  });

  it("leaves equal, very long and altogether different texts alone", () => {
    expect(differenceOf("same", "same")).toBeNull();
    expect(differenceOf("x ".repeat(3000), "x")).toBeNull();
    expect(differenceOf("Gannet Chandlery", "Pellin 7")).toBeNull();
    expect(differenceOf("Gannet, Chandlery", "Pellin, Quay")).toBeNull();
  });

  it("always gives the text itself", () => {
    for (const [a, b] of [
      ["Brackwater Marin Fuels", "brackwater Marine  Fuels"],
      ["12 Fish Street", "12a Fish St"],
      ["x y", "y x"],
      ["a\nb  c", "A b c d"],
    ] as const)
      expect((differenceOf(a, b) ?? [{ text: a }]).map((piece) => piece.text).join("")).toBe(a);
  });
});
