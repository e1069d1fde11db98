import { FormatError } from './error';

/** One-dimensional curves applied before a cube: `size` entries of three numbers across the domain. */
export interface Curves {
  size: number;
  domainMin: readonly [number, number, number];
  domainMax: readonly [number, number, number];
  data: Float32Array;
}

/**
 * A look-up table as a `.cube` file holds it: the published text format 1.0, or the other form in use, whose domain is
 * an `INPUT_RANGE` of two numbers, and which may have curves before its cube.
 */
export interface Lut {
  title: string;
  /** Only before a cube. */
  curves?: Curves;
  /** 1: one curve per channel; 3: a cube, red fastest. */
  dimensions: 1 | 3;
  /** Entries of a curve (2–65536), or nodes an edge of a cube (2–256). */
  size: number;
  domainMin: readonly [number, number, number];
  domainMax: readonly [number, number, number];
  /** Three numbers per entry. */
  data: Float32Array;
}

const LIMITS = { 1: { least: 2, most: 65536 }, 3: { least: 2, most: 256 } } as const;
/** Maximum file length in characters: fits a cube of 129 nodes an edge with long numbers. */
const MAX_LENGTH = 120_000_000;
const MAX_LINE = 250;
/** Maximum number of blank lines and comments. */
const MAX_IDLE_LINES = 10_000;

/** What a file states about one of its tables before the numbers. */
interface Part {
  size?: number;
  domainMin?: [number, number, number];
  domainMax?: [number, number, number];
}
interface Head {
  title: string;
  /** Values of DOMAIN_MIN and DOMAIN_MAX, which apply to a single table. */
  domain: Pick<Part, 'domainMin' | 'domainMax'>;
  parts: Record<1 | 3, Part>;
}

/** A decimal number; NaN for anything else, including hexadecimal numbers and words. */
function decimal(word: string): number {
  for (let i = 0; i < word.length; i += 1) {
    const c = word.charCodeAt(i);
    // Accepts 0–9, sign, point, e and E; Number() checks their order.
    const fits = (c >= 48 && c <= 57) || c === 45 || c === 46 || c === 43 || c === 101 || c === 69;
    if (!fits) return NaN;
  }
  return word === '' ? NaN : Number(word);
}

function numbers(words: readonly string[], count: 2 | 3, line: number): number[] {
  if (words.length !== count)
    throw new FormatError(
      `Line ${line}: ${count === 2 ? 'two' : 'three'} numbers are needed, there ${words.length === 1 ? 'is' : 'are'} ${words.length}.`,
    );
  const values = words.map(decimal);
  // Large numbers overflow to infinity and are refused too.
  const wrong = values.findIndex((v) => !Number.isFinite(v));
  if (wrong >= 0) throw new FormatError(`Line ${line}: "${words[wrong].slice(0, 24)}" is not a number.`);
  return values;
}
const threeNumbers = (words: readonly string[], line: number): [number, number, number] =>
  numbers(words, 3, line) as [number, number, number];

/** Fast path for nearly all lines: three plain numbers separated by single blanks. False for any other line. */
function readThree(text: string, data: Float32Array, at: number): boolean {
  const first = text.indexOf(' ');
  const second = text.indexOf(' ', first + 1);
  if (first < 0 || second < 0) return false;
  const r = decimal(text.slice(0, first));
  const g = decimal(text.slice(first + 1, second));
  const b = decimal(text.slice(second + 1));
  if (!Number.isFinite(r) || !Number.isFinite(g) || !Number.isFinite(b)) return false;
  data[at] = r;
  data[at + 1] = g;
  data[at + 2] = b;
  return true;
}

/** Parses a keyword line into the head; false if it is not one. */
function readKeyword(head: Head, text: string, line: number): boolean {
  // Most lines are numbers.
  if (text.charCodeAt(0) < 65) return false;
  const [word, ...rest] = text.split(/\s+/);
  switch (word) {
    case 'TITLE': {
      // In quotation marks, which some writers omit.
      head.title = text
        .slice('TITLE'.length)
        .trim()
        .replace(/^"(.*)"$/, '$1');
      return true;
    }
    case 'LUT_1D_SIZE':
    case 'LUT_3D_SIZE': {
      const dimensions = word === 'LUT_1D_SIZE' ? 1 : 3;
      if (head.parts[dimensions].size) throw new FormatError(`Line ${line}: the size is given twice.`);
      const { least, most } = LIMITS[dimensions];
      const size = Number(rest[0]);
      if (rest.length !== 1 || !Number.isInteger(size) || size < least || size > most)
        throw new FormatError(`Line ${line}: a size of ${least} to ${most} is needed.`);
      head.parts[dimensions].size = size;
      return true;
    }
    case 'LUT_1D_INPUT_RANGE':
    case 'LUT_3D_INPUT_RANGE': {
      const [low, high] = numbers(rest, 2, line);
      const domain = { domainMin: [low, low, low], domainMax: [high, high, high] } satisfies Part;
      Object.assign(head.parts[word === 'LUT_1D_INPUT_RANGE' ? 1 : 3], domain);
      return true;
    }
    case 'DOMAIN_MIN':
      head.domain.domainMin = threeNumbers(rest, line);
      return true;
    case 'DOMAIN_MAX':
      head.domain.domainMax = threeNumbers(rest, line);
      return true;
    case 'LUT_IN_VIDEO_RANGE':
    case 'LUT_OUT_VIDEO_RANGE':
      throw new FormatError(
        `Line ${line}: this table is made for code values of video range (${word}); only tables for full range are taken.`,
      );
    default:
      if (/^[A-Z]/.test(word))
        throw new FormatError(`Line ${line}: "${word.slice(0, 24)}" is not a keyword of this format.`);
      return false;
  }
}

/** Iterates over the lines of a text: an array of them would take many times the file's own size. */
function* linesOf(text: string): Generator<string> {
  let at = text.startsWith('\uFEFF') ? 1 : 0;
  while (at <= text.length) {
    const lf = text.indexOf('\n', at);
    const end = lf < 0 ? text.length : lf;
    // A carriage return ends a line too, alone or before a line feed.
    const chunk = text.slice(at, end > at && text[end - 1] === '\r' ? end - 1 : end);
    if (chunk.includes('\r')) yield* chunk.split('\r');
    else yield chunk;
    at = end + 1;
  }
}

/** Allocates the tables of a file, in the order of their numbers. Throws a {@link FormatError}. */
function tablesOf({ parts, domain }: Head): (Curves & { dimensions: 1 | 3 })[] {
  const both = parts[1].size !== undefined && parts[3].size !== undefined;
  if (both && (domain.domainMin ?? domain.domainMax))
    throw new FormatError('DOMAIN_MIN and DOMAIN_MAX do not say whether they are of the curves or of the cube.');
  return ([1, 3] as const).flatMap((dimensions) => {
    const { size, ...range } = parts[dimensions];
    if (size === undefined) return [];
    const { domainMin = [0, 0, 0], domainMax = [1, 1, 1] } = { ...domain, ...range };
    if ([0, 1, 2].some((c) => !(domainMax[c] > domainMin[c])))
      throw new FormatError('A domain must end above where it begins, in every channel.');
    const data = new Float32Array(3 * (dimensions === 3 ? size ** 3 : size));
    return [{ dimensions, size, domainMin, domainMax, data }];
  });
}

/**
 * Reads a `.cube` file: curves, a cube, or curves before a cube. Throws a {@link FormatError} that names the line;
 * never returns a partial table. Blank lines and lines that begin with # are skipped.
 */
export function readCube(text: string): Lut {
  if (text.length > MAX_LENGTH) throw new FormatError(`This table is larger than ${MAX_LENGTH / 1e6} MB.`);
  const head: Head = { title: '', domain: {}, parts: { 1: {}, 3: {} } };
  let tables: ReturnType<typeof tablesOf> | undefined;
  /** The table being filled, and the write position. */
  let [filled, at] = [0, 0];
  let line = 0;
  let idle = 0;
  for (const raw of linesOf(text)) {
    line += 1;
    if (raw.length > MAX_LINE) throw new FormatError(`Line ${line} is longer than ${MAX_LINE} characters.`);
    const trimmed = raw.trim();
    if (!trimmed || trimmed.startsWith('#')) {
      idle += 1;
      if (idle > MAX_IDLE_LINES)
        throw new FormatError(`Line ${line}: there are more than ${MAX_IDLE_LINES} blank lines and comments.`);
      continue;
    }
    if (readKeyword(head, trimmed, line)) {
      if (tables) throw new FormatError(`Line ${line}: keywords come before the numbers.`);
      continue;
    }
    tables ??= tablesOf(head);
    if (tables.length === 0) throw new FormatError(`Line ${line}: numbers come before LUT_1D_SIZE or LUT_3D_SIZE.`);
    if (at === tables[filled].data.length) {
      [filled, at] = [filled + 1, 0];
      if (filled === tables.length)
        throw new FormatError(`Line ${line}: there are more entries than the size ${tables[filled - 1].size} says.`);
    }
    const { data } = tables[filled];
    if (!readThree(trimmed, data, at)) data.set(threeNumbers(trimmed.split(/\s+/), line), at);
    at += 3;
  }
  tables ??= tablesOf(head);
  if (tables.length === 0) throw new FormatError('There is no LUT_1D_SIZE and no LUT_3D_SIZE: this is no .cube file.');
  const count = (some: typeof tables): number => some.reduce((n, t) => n + t.data.length / 3, 0);
  const there = count(tables.slice(0, filled)) + at / 3;
  if (there < count(tables))
    throw new FormatError(`The file ends after ${there} entries; ${count(tables)} are needed.`);
  const last = tables[tables.length - 1];
  const { size, domainMin, domainMax, data } = tables[0];
  return { title: head.title, ...last, ...(tables.length > 1 ? { curves: { size, domainMin, domainMax, data } } : {}) };
}

const six = (v: number): string => v.toFixed(6);

/** Writes a `.cube` file with six decimals. Throws a {@link FormatError} for a table that the format cannot hold. */
export function writeCube(lut: Lut): string {
  const { least, most } = LIMITS[lut.dimensions];
  if (lut.size < least || lut.size > most) throw new FormatError(`A .cube file holds sizes of ${least} to ${most}.`);
  const isUnit = lut.domainMin.every((v) => v === 0) && lut.domainMax.every((v) => v === 1);
  const lines = [
    ...(lut.title ? [`TITLE "${lut.title.replace(/["\r\n]/g, ' ').slice(0, 200)}"`] : []),
    `LUT_${lut.dimensions}D_SIZE ${lut.size}`,
    ...(isUnit
      ? []
      : [`DOMAIN_MIN ${lut.domainMin.map(six).join(' ')}`, `DOMAIN_MAX ${lut.domainMax.map(six).join(' ')}`]),
  ];
  for (let o = 0; o < lut.data.length; o += 3)
    lines.push(`${six(lut.data[o])} ${six(lut.data[o + 1])} ${six(lut.data[o + 2])}`);
  return `${lines.join('\n')}\n`;
}
