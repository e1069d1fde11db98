import { SaxesParser } from 'saxes';
import { FormatError } from './error';

const MAX_DEPTH = 12;
/** Two thousand corrections with all that belongs to them are fewer. */
const MAX_ELEMENTS = 50_000;

/** Text as it may stand in an XML attribute or element; what XML cannot hold is left out. */
export const escapeXml = (text: string): string =>
  [...text]
    .filter((c) => c >= ' ' || c === '\t' || c === '\n')
    .join('')
    .replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** An element of a file, without its name space's prefix. */
export interface Element {
  name: string;
  /** Has no prototype: an attribute may be called anything. */
  attributes: Record<string, string>;
  children: Element[];
  text: string;
  line: number;
}

/**
 * An XML file as a tree. Document types, and with them entities of one's own, are refused; so is what is nested more
 * than {@link MAX_DEPTH} deep. Throws a {@link FormatError} that names the line.
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
