/** What people read on a screen is said in the terms of the glossary (docs/guide/words.md): its last column is used
 * nowhere. */
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";
import { expect, test } from "vitest";

const SOURCE = join(import.meta.dirname, "..");
const GLOSSARY = join(SOURCE, "../../docs/guide/words.md");
/** Stored by earlier versions, and read back. */
const STORED = new Set(["by itself"]);

const terms = [...readFileSync(GLOSSARY, "utf8").matchAll(/^\|[^|]*\|[^|]*\|([^|]*)\|$/gm)]
  .slice(2)
  .flatMap((row) => (row[1] ?? "").split(","))
  .map((term) => term.trim())
  .filter(Boolean);
const escaped = terms.map((term) => term.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
const unused = new RegExp(`(?<![\\w-])(?:${escaped.join("|")})(?![\\w-])`, "i");

function* files(folder: string): Generator<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else if (/\.tsx?$/.test(entry.name) && !/\.test\.|\.gen\.|schema/.test(entry.name)) yield path;
  }
}

/** JSX text and string literals that are words: no addresses, class names or keys. */
function textsOf(path: string): string[] {
  const source = ts.createSourceFile(path, readFileSync(path, "utf8"), ts.ScriptTarget.Latest, true);
  const found: string[] = [];
  const visit = (node: ts.Node) => {
    if (ts.isImportDeclaration(node) || ts.isTypeNode(node)) return;
    if (ts.isJsxText(node)) found.push(node.text.replace(/\s+/g, " ").trim());
    if (ts.isTemplateExpression(node))
      found.push(node.head.text, ...node.templateSpans.map((span) => span.literal.text));
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) found.push(node.text);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found.filter((text) => /[A-Za-z] [A-Za-z]|^[A-Z][a-z]+$/.test(text) && !STORED.has(text));
}

test("the glossary names what it looks for", () => {
  expect(terms.length).toBeGreaterThan(60);
  expect(unused.test("Nobody took it back")).toBe(true);
});

test("screens are said in the terms of the glossary", () => {
  const found = [...files(SOURCE)].flatMap((path) =>
    textsOf(path)
      .filter((text) => unused.test(text))
      .map((text) => `${path.slice(SOURCE.length)}: ${text}`),
  );
  expect(found).toEqual([]);
});
