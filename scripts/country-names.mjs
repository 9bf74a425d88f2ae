// Writes the names of countries in many languages, as the Unicode CLDR has them: node scripts/country-names.mjs.
import { writeFileSync } from "node:fs";

const languages =
  "de fr es it nl pt sv da nb fi pl cs sk hu ro hr sl sr tr ru uk el bg ar he fa hi zh zh-Hant ja ko vi th id ms et lv lt is ga cy ca eu gl af sq hy ka".split(
    " ",
  );
const letters = [..."ABCDEFGHIJKLMNOPQRSTUVWXYZ"];
const named = new Intl.DisplayNames(["en"], { type: "region", fallback: "none" });
// Regions that are no country, or none any more.
const others = new Set(["EU", "EZ", "UN", "QO", "XA", "XB", "ZZ", "AN", "CS", "DD", "SU", "YU", "ZR", "BU", "TP", "FX", "NT", "UK"]);
const lines = letters.flatMap((first) =>
  letters.flatMap((second) => {
    const code = first + second;
    const english = named.of(code);
    if (!english || others.has(code)) return [];
    const names = new Set(
      ["en", ...languages].map((language) =>
        new Intl.DisplayNames([language], { type: "region", fallback: "none" }).of(code)?.replaceAll(",", ""),
      ),
    );
    names.delete(undefined);
    names.delete(code);
    return names.size > 0 ? [`${code}: ${[...names].join(", ")}`] : [];
  }),
);
const head = `# Countries by their names in many languages, from the Unicode CLDR (scripts/country-names.mjs).`;
writeFileSync(
  new URL("../src/Kettlefog.Core/Text/country-names.txt", import.meta.url),
  `${[head, ...lines].join("\n")}\n`,
);
