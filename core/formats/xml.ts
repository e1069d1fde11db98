import { SaxesParser } from 'saxes';
import { FormatError } from './error';

const MAX_DEPTH = 12;
/** Limit on elements: two thousand corrections with their children have fewer. */
const MAX_ELEMENTS = 50_000;

/** Escapes text for an XML attribute or element; characters that XML does not allow are removed. */
export const escapeXml = (text: string): string =>
  [...text]
    .filter((c) => c >= ' ' || c === '\t' || c === '\n')
    .join('')
    .replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** An element, its name without the namespace prefix. */
export interface Element {
  name: string;
  /** Has no prototype: attributes may have any name. */
  attributes: Record<string, string>;
  children: Element[];
  text: string;
  line: number;
}

/**
 * Parses XML into a tree. Document types, and with them custom entities, are refused, and so is nesting deeper than
 * {@link MAX_DEPTH}. Throws a {@link FormatError} that names the line.
 */
export function parseXml(text: string): Element {
  const parser = new SaxesParser();
  const open: Element[] = [];
  let root: Element | undefined;
  let elements = 0;
  const fail = (message: string): never => {
    throw new FormatError(`Line ${parser.line}: ${message}`);
  };
  parser.on('error', (error) => fail(`this is not valid XML (${error.message.replace(/^[\d:]+\s*/, '')})`));
  parser.on('doctype', () => fail('a document type is not taken.'));
  parser.on('opentag', ({ name, attributes }) => {
    if (open.length >= MAX_DEPTH) fail('elements are nested too deeply.');
    const own = Object.assign(Object.create(null), attributes) as Record<string, string>;
    const element = { name: name.replace(/^\w+:/, ''), attributes: own, children: [], text: '', line: parser.line };
    elements += 1;
    if (elements > MAX_ELEMENTS) fail(`there are more than ${MAX_ELEMENTS} elements.`);
    open.at(-1)?.children.push(element);
    root ??= element;
    open.push(element);
  });
  const addText = (part: string): void => {
    const element = open.at(-1);
    if (element) element.text += part;
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.on('closetag', () => void open.pop());
  parser.write(text).close();
  return root!;
}
