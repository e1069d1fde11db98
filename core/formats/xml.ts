import { SaxesParser } from 'saxes';
import { FormatError } from './error';

const MAX_DEPTH = 12;

/** Text as it may stand in an XML attribute or element; what XML cannot hold is left out. */
export const escapeXml = (text: string): string =>
  [...text]
    .filter((c) => c >= ' ' || c === '\t' || c === '\n')
    .join('')
    .replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** An element of a file, without its name space's prefix. */
export interface Element {
  name: string;
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
  const fail = (message: string): never => {
    throw new FormatError(`Line ${parser.line}: ${message}`);
  };
  parser.on('error', (error) => fail(`this is no valid XML (${error.message.replace(/^[\d:]+\s*/, '')})`));
  parser.on('doctype', () => fail('a document type is not taken.'));
  parser.on('opentag', ({ name, attributes }) => {
    if (open.length >= MAX_DEPTH) fail('elements are nested too deeply.');
    const element = { name: name.replace(/^\w+:/, ''), attributes, children: [], text: '', line: parser.line };
    open.at(-1)?.children.push(element);
    root ??= element;
    open.push(element);
  });
  parser.on('text', (part) => {
    const element = open.at(-1);
    if (element) element.text += part;
  });
  parser.on('closetag', () => void open.pop());
  parser.write(text).close();
  return root!;
}
