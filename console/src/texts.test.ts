import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";
import { expect, it } from "vitest";

const sources = join(import.meta.dirname);
const files = readdirSync(sources, { recursive: true, encoding: "utf8" }).filter(
  (name) => name.endsWith(".tsx") && !name.includes(".test.") && !name.includes("test-"),
);

/** Attributes and properties of components that are read out or drawn. */
const texts = /^(aria-label|title|label|placeholder|description|alt|what|none|does|text|heading|hint)$/;
const letters = /\p{L}{2}/u;

const isMessage = (node: ts.Node) =>
  (ts.isJsxElement(node) && node.openingElement.tagName.getText() === "Trans") ||
  (ts.isTaggedTemplateExpression(node) && node.tag.getText() === "t");

/** The text that a literal draws where it is written, or nothing if it is a key, a name, or something compared. */
function drawnBy(node: ts.Node): string | null {
  if (ts.isJsxText(node)) return node.text;
  if (!ts.isStringLiteralLike(node) && !ts.isTemplateExpression(node)) return null;
  const said = ts.isTemplateExpression(node)
    ? node.head.text + node.templateSpans.map((span) => span.literal.text).join(" ")
    : node.text;
  // Up to where it becomes a child, or the value of an attribute: through choices, but not through calls.
  let at: ts.Node = node;
  while (
    (ts.isConditionalExpression(at.parent) && at.parent.condition !== at) ||
    ts.isParenthesizedExpression(at.parent) ||
    ts.isTemplateSpan(at.parent) ||
    ts.isTemplateExpression(at.parent) ||
    (ts.isBinaryExpression(at.parent) && /^(&&|\|\||\?\?|\+)$/.test(at.parent.operatorToken.getText()))
  )
    at = at.parent;
  const parent = at.parent;
  if (ts.isTaggedTemplateExpression(parent)) return at === node ? null : said;
  if (ts.isJsxAttribute(parent)) return texts.test(parent.name.getText()) ? said : null;
  if (!ts.isJsxExpression(parent)) return null;
  if (ts.isJsxAttribute(parent.parent)) return texts.test(parent.parent.name.getText()) ? said : null;
  return said;
}

it.each(files)("%s draws no text that is not in the catalogue", (name) => {
  const source = ts.createSourceFile(
    name,
    readFileSync(join(sources, name), "utf8"),
    ts.ScriptTarget.Latest,
    true,
    ts.ScriptKind.TSX,
  );
  const missed: string[] = [];
  const look = (node: ts.Node, isKnown: boolean) => {
    const text = drawnBy(node);
    // What stands in a message is known; what is put into one must be a message of its own.
    if (text !== null && letters.test(text) && !(isKnown && ts.isJsxText(node)))
      missed.push(`${source.getLineAndCharacterOfPosition(node.getStart()).line + 1}: ${text.trim()}`);
    ts.forEachChild(node, (child) => look(child, isMessage(node) || (isKnown && !ts.isJsxExpression(node))));
  };
  look(source, false);
  expect(missed).toEqual([]);
});

it("holds no placeholder after an apostrophe, which would be shown as it is written", () => {
  const catalogue = readFileSync(join(sources, "locales", "en.po"), "utf8");
  expect(catalogue.split("\n").filter((line) => /'[{}]/.test(line))).toEqual([]);
});
