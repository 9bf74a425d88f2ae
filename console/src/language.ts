import { i18n, type Messages } from "@lingui/core";
import { messages as en } from "./locales/en.po";

/** The languages that the console speaks, by their BCP 47 code; another one is a catalogue beside the first. */
const catalogues: Record<string, Messages> = { en };

/**
 * The first of the reader's languages that the console speaks, with the region that says how dates and numbers look
 * (en-GB, say); English where it speaks none of them.
 */
export function pickLocale(wanted: readonly string[]): { language: string; locale: string } {
  for (const locale of wanted) {
    const language = locale.split("-")[0] ?? "";
    if (language in catalogues) return { language, locale };
  }
  return { language: "en", locale: "en" };
}

const picked = pickLocale(globalThis.navigator?.languages ?? []);
document.documentElement.lang = picked.language;
i18n.load(catalogues);
i18n.activate(picked.language, [picked.locale]);

/** How dates and numbers are written; of the same language as the texts around them. */
export const locale = picked.locale;
