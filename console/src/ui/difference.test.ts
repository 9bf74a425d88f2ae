import { describe, expect, it } from "vitest";
import { differenceOf } from "./difference";

const marked = (text: string, other: string) =>
  differenceOf(text, other)
    ?.map((piece) => (piece.same ? piece.text : `[${piece.text}]`))
    .join("");

describe("the difference of two texts", () => {
  it("marks what only one of them has", () => {
    expect(marked("Gannett Chandlery", "Gannet Chandlery")).toBe("Gannet[t] Chandlery");
    expect(marked("01632 960118", "01632 960181")).toMatch(/^01632 9601.*\[[18]\]/);
    expect(marked("0163O 960118", "01630 960118")).toBe("0163[O] 960118");
  });

  it("marks nothing where the other one only has more", () => {
    expect(marked("Gannet", "Gannett")).toBeUndefined();
  });

  it("keeps letters with their accents, and pairs of surrogates together", () => {
    expect(marked("Zoe\u0301 Ødegaard", "Zoe Ødegaard")).toBe("Zo[e\u0301] Ødegaard");
    expect(marked("Quay 🦆🚤", "Quay 🦆")).toBe("Quay 🦆[🚤]");
  });

  it("leaves equal, very long and altogether different texts alone", () => {
    expect(differenceOf("same", "same")).toBeNull();
    expect(differenceOf("x".repeat(300), "y")).toBeNull();
    expect(differenceOf("Gannet Chandlery", "Pellin 7")).toBeNull();
  });

  it("always gives the text itself", () => {
    for (const [a, b] of [
      ["Brackwater Marin Fuels", "Brackwater Marine Fuels"],
      ["12 Fish Street", "12a Fisch St"],
      ["", "x"],
    ] as const)
      expect((differenceOf(a, b) ?? [{ text: a, same: true }]).map((piece) => piece.text).join("")).toBe(a);
  });
});
