import { i18n } from "@lingui/core";
import { expect, it } from "vitest";
import { pickLocale } from "./language";

it.each([
  [["en-GB", "de"], { language: "en", locale: "en-GB" }],
  // Numbers and dates follow the language of the texts around them.
  [["de-DE", "en-IE"], { language: "en", locale: "en-IE" }],
  [["tlh"], { language: "en", locale: "en" }],
  [[], { language: "en", locale: "en" }],
])("the language for readers of %j", (wanted, picked) => expect(pickLocale(wanted)).toEqual(picked));

it("is the one that is used", () => expect(Object.keys(i18n.messages).length).toBeGreaterThan(500));
