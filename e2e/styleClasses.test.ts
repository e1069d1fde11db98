import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

const APP = join(__dirname, '../app');

/** Classes with their places, from literals in `className`, and in the constants of the same file that it names. */
function classesOf(file: string): [string, string][] {
  const source = ts.createSourceFile(file, readFileSync(file, 'utf8'), ts.ScriptTarget.Latest, true);
  const constants = new Map<string, ts.Expression>();
  const found: [string, string][] = [];
  const collect = (node: ts.Node): void => {
    if (ts.isStringLiteralLike(node) || ts.isTemplateHead(node) || ts.isTemplateMiddleOrTemplateTail(node)) {
      const { line } = source.getLineAndCharacterOfPosition(node.getStart());
      const place = `${file.slice(APP.length + 1)}:${line + 1}`;
      found.push(
        ...node.text
          .split(/\s+/)
          .filter(Boolean)
          .map((c): [string, string] => [c, place]),
      );
    } else if (ts.isConditionalExpression(node)) [node.whenTrue, node.whenFalse].forEach(collect);
    else if (ts.isIdentifier(node) && constants.has(node.text)) collect(constants.get(node.text)!);
    else if (ts.isPropertyAccessExpression(node) || ts.isElementAccessExpression(node)) collect(node.expression);
    else ts.forEachChild(node, collect);
  };
  const visit = (node: ts.Node): void => {
    if (ts.isVariableDeclaration(node) && ts.isIdentifier(node.name) && node.initializer)
      constants.set(node.name.text, node.initializer);
    if (ts.isJsxAttribute(node) && /classname$/i.test(node.name.getText()) && node.initializer)
      collect(node.initializer);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

test('every style class that the interface names is in the style sheet', () => {
  const files = ['routes', 'src'].flatMap((folder) =>
    readdirSync(join(APP, folder), { recursive: true, encoding: 'utf8' })
      .filter((name) => name.endsWith('.tsx'))
      .map((name) => join(APP, folder, name)),
  );
  const used = files.flatMap(classesOf);
  expect(used.length).toBeGreaterThan(500);
  const folder = join(APP, 'dist/_expo/static/css');
  const sheet = readdirSync(folder)
    .filter((name) => name.endsWith('.css'))
    .map((name) => readFileSync(join(folder, name), 'utf8'))
    .join('');
  const defined = new Set(Array.from(sheet.matchAll(/\.((?:\\.|[\w-])+)/g), ([, name]) => name.replaceAll('\\', '')));
  expect(used.filter(([name]) => !defined.has(name))).toEqual([]);
});
