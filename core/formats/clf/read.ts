import type { LogCamera } from '../../colour/transfer';
import { NEUTRAL_CDL } from '../cdl';
import { FormatError } from '../error';
import { parseXml, type Element } from '../xml';
import { CDL_STYLES, EXPONENT_STYLES, LOG_STYLES, type ProcessList, type ProcessNode, type Three } from './types';

/** Maximum file length in characters, and maximum number of entries in a cube or a curve. */
const MAX_LENGTH = 120_000_000;
const MAX_CUBE = 129;
const MAX_CURVE = 65536;
const MAX_NODES = 100;

/** The code value that corresponds to 1 at each bit depth. */
const SCALES = new Map([
  ['8i', 255],
  ['10i', 1023],
  ['12i', 4095],
  ['16i', 65535],
  ['16f', 1],
  ['32f', 1],
]);

const where = (e: Element): string => `${e.name} (line ${e.line})`;

function toNumber(word: string, e: Element): number {
  const value = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/.test(word) ? Number(word) : NaN;
  if (!Number.isFinite(value)) throw new FormatError(`${where(e)}: "${word.slice(0, 24)}" is not a number.`);
  return value;
}

/** The numbers in an element's text; the count must match if one is given. */
function numbersOf(e: Element, count?: number): Float64Array {
  const words = e.text.trim().split(/\s+/);
  const found = words[0] === '' ? 0 : words.length;
  if (count !== undefined && found !== count)
    throw new FormatError(`${where(e)}: ${count} numbers are needed, there are ${found}.`);
  return Float64Array.from({ length: found }, (_, i) => toNumber(words[i], e));
}

const child = (e: Element, name: string): Element | undefined => e.children.find((c) => c.name === name);
function needed(e: Element, name: string): Element {
  const found = child(e, name);
  if (!found) throw new FormatError(`${where(e)}: there is no ${name} in it.`);
  return found;
}

function styleOf<S extends string>(e: Element, styles: readonly S[]): S {
  const style = e.attributes.style as S;
  if (!styles.includes(style))
    throw new FormatError(`${where(e)}: style "${String(style).slice(0, 24)}" is not one of ${styles.join(', ')}.`);
  return style;
}

function scaleOf(e: Element, side: 'in' | 'out'): number {
  const depth = e.attributes[`${side}BitDepth`];
  const scale = SCALES.get(depth);
  if (scale === undefined)
    throw new FormatError(`${where(e)}: ${side}BitDepth must be one of ${[...SCALES.keys()].join(', ')}.`);
  return scale;
}

function dimensions(array: Element): number[] {
  const dims = (array.attributes.dim ?? '').trim().split(/\s+/).map(Number);
  if (!dims.every((d) => Number.isInteger(d) && d > 0))
    throw new FormatError(`${where(array)}: dim must hold whole numbers.`);
  return dims;
}

function readMatrix(e: Element): ProcessNode {
  const array = needed(e, 'Array');
  const [inScale, outScale] = [scaleOf(e, 'in'), scaleOf(e, 'out')];
  const [height, width] = dimensions(array);
  if (height !== 3 || (width !== 3 && width !== 4)) throw new FormatError(`${where(array)}: dim must be 3 3 or 3 4.`);
  const values = numbersOf(array, 3 * width);
  const row = (r: number): [number, number, number, number] => {
    const at = (c: number) => values[r * width + c];
    const k = inScale / outScale;
    return [at(0) * k, at(1) * k, at(2) * k, width === 4 ? at(3) / outScale : 0];
  };
  return { kind: 'matrix', rows: [row(0), row(1), row(2)] };
}

function readLut1d(e: Element): ProcessNode {
  if (e.attributes.halfDomain === 'true' || e.attributes.rawHalfs === 'true')
    throw new FormatError(`${where(e)}: curves over half floats are not read. Write it over 0 to 1.`);
  const array = needed(e, 'Array');
  const [size, channels] = dimensions(array);
  if (size < 2 || size > MAX_CURVE || (channels !== 1 && channels !== 3))
    throw new FormatError(`${where(array)}: dim must be 2 to ${MAX_CURVE} entries, and 1 or 3.`);
  const values = numbersOf(array, size * channels);
  const scale = scaleOf(e, 'out');
  const data = new Float64Array(size * 3);
  for (let i = 0; i < data.length; i += 1) data[i] = values[channels === 3 ? i : Math.floor(i / 3)] / scale;
  return { kind: 'lut1d', size, data };
}

function readLut3d(e: Element): ProcessNode {
  const array = needed(e, 'Array');
  const [size, ...rest] = dimensions(array);
  if (size < 2 || size > MAX_CUBE || rest.length !== 3 || rest[0] !== size || rest[1] !== size || rest[2] !== 3)
    throw new FormatError(`${where(array)}: dim must be one size (2 to ${MAX_CUBE}) three times, and 3.`);
  const values = numbersOf(array, size ** 3 * 3);
  const scale = scaleOf(e, 'out');
  const data = new Float64Array(values.length);
  let at = 0;
  for (let r = 0; r < size; r += 1)
    for (let g = 0; g < size; g += 1)
      for (let b = 0; b < size; b += 1, at += 3)
        for (let c = 0; c < 3; c += 1) data[((b * size + g) * size + r) * 3 + c] = values[at + c] / scale;
  const interpolation = e.attributes.interpolation === 'tetrahedral' ? 'tetrahedral' : 'trilinear';
  return { kind: 'lut3d', size, data, interpolation };
}

function readRange(e: Element): ProcessNode {
  const [inScale, outScale] = [scaleOf(e, 'in'), scaleOf(e, 'out')];
  const end = (name: 'min' | 'max') => {
    const [a, b] = [child(e, `${name}InValue`), child(e, `${name}OutValue`)];
    if (!a !== !b) throw new FormatError(`${where(e)}: ${name}InValue and ${name}OutValue go together.`);
    return a && b ? { in: numbersOf(a, 1)[0] / inScale, out: numbersOf(b, 1)[0] / outScale } : undefined;
  };
  const [low, high] = [end('min'), end('max')];
  if (!low && !high) throw new FormatError(`${where(e)}: a range needs a lower or an upper end.`);
  if (low && high && !(high.in > low.in)) throw new FormatError(`${where(e)}: maxInValue must lie above minInValue.`);
  const one = low && high ? undefined : (low ?? high);
  if (one && Math.abs(one.in - one.out) > 1e-6)
    throw new FormatError(`${where(e)}: with one end only, its in and out values must be the same.`);
  return { kind: 'range', low, high, clamp: e.attributes.style !== 'noClamp' };
}

/** One set of parameters per channel; a set without `channel` applies to all. */
function perChannel<T>(e: Element, name: string, read: (p: Element) => T): Three<T> {
  const found = e.children.filter((c) => c.name === name);
  const of = (channel: string): T => {
    const p = found.find((c) => c.attributes.channel === channel) ?? found.find((c) => !c.attributes.channel);
    if (!p) throw new FormatError(`${where(e)}: there is no ${name} for channel ${channel}.`);
    return read(p);
  };
  return [of('R'), of('G'), of('B')];
}

const attribute = (p: Element, name: string, otherwise?: number): number => {
  const text = p.attributes[name];
  if (text !== undefined) return toNumber(text, p);
  if (otherwise === undefined) throw new FormatError(`${where(p)}: ${name} is missing.`);
  return otherwise;
};

function readLog(e: Element): ProcessNode {
  const style = styleOf(e, LOG_STYLES);
  const base = style.includes('10') ? 10 : 2;
  const plain = { base, logSideSlope: 1, logSideOffset: 0, linSideSlope: 1, linSideOffset: 0, linSideBreak: 0 };
  if (/^(anti)?[lL]og\d+$/.test(style)) return { kind: 'log', style, params: [plain, plain, plain] };
  const camera = style.startsWith('camera');
  const params = perChannel(e, 'LogParams', (p): LogCamera => {
    const read: LogCamera = {
      base: attribute(p, 'base', 2),
      logSideSlope: attribute(p, 'logSideSlope', 1),
      logSideOffset: attribute(p, 'logSideOffset', 0),
      linSideSlope: attribute(p, 'linSideSlope', 1),
      linSideOffset: attribute(p, 'linSideOffset', 0),
      linSideBreak: camera ? attribute(p, 'linSideBreak') : 0,
      ...(camera && p.attributes.linearSlope !== undefined ? { linearSlope: attribute(p, 'linearSlope') } : {}),
    };
    if (!(read.base > 0) || read.base === 1 || read.logSideSlope === 0 || read.linSideSlope === 0)
      throw new FormatError(`${where(p)}: base must be above 0 and not 1, and no slope may be 0.`);
    return read;
  });
  return { kind: 'log', style, params };
}

function readExponent(e: Element): ProcessNode {
  const style = styleOf(e, EXPONENT_STYLES);
  const curve = style.startsWith('monCurve');
  const params = perChannel(e, 'ExponentParams', (p) => {
    const [exponent, offset] = [attribute(p, 'exponent'), attribute(p, 'offset', 0)];
    if (!(exponent >= (curve ? 1 : 0.01) && exponent <= (curve ? 10 : 100)) || !(offset >= 0 && offset <= 0.9))
      throw new FormatError(`${where(p)}: exponent or offset lies outside its limits.`);
    return { exponent, offset };
  });
  return { kind: 'exponent', style, params };
}

function readCdlNode(e: Element): ProcessNode {
  const style = styleOf(e, CDL_STYLES);
  const sop = child(e, 'SOPNode');
  const three = (name: string, neutral: Three): Three => {
    const found = sop && child(sop, name);
    return found ? ([...numbersOf(found, 3)] as Three) : neutral;
  };
  const sat = child(e, 'SatNode');
  const cdl = {
    slope: three('Slope', NEUTRAL_CDL.slope),
    offset: three('Offset', NEUTRAL_CDL.offset),
    power: three('Power', NEUTRAL_CDL.power),
    saturation: sat ? numbersOf(needed(sat, 'Saturation'), 1)[0] : 1,
  };
  const back = style.startsWith('Rev');
  const least = (v: number): boolean => (back ? v > 0 : v >= 0);
  if (!cdl.slope.every(least) || !cdl.power.every((v) => v > 0) || !least(cdl.saturation))
    throw new FormatError(`${where(e)}: slope and saturation must not be below 0, power must be above 0.`);
  return { kind: 'cdl', style, cdl };
}

/** By element name, in a Map: a file may use any element name, including those of Object's own properties. */
const READERS = new Map<string, (e: Element) => ProcessNode>(
  Object.entries({
    Matrix: readMatrix,
    LUT1D: readLut1d,
    LUT3D: readLut3d,
    Range: readRange,
    Log: readLog,
    Exponent: readExponent,
    ASC_CDL: readCdlNode,
  }),
);
/** Elements that describe the file and do not affect colour. */
const TOLD = ['Description', 'InputDescriptor', 'OutputDescriptor', 'Info'];

/**
 * Reads a Common LUT Format file. Throws a {@link FormatError} that names the line or the element; never returns a
 * partial list. Unknown process nodes are refused, since skipping one would change the picture.
 */
export function readClf(text: string): ProcessList {
  if (text.length > MAX_LENGTH) throw new FormatError(`This file is larger than ${MAX_LENGTH / 1e6} MB.`);
  const root = parseXml(text);
  if (root.name !== 'ProcessList')
    throw new FormatError(`Line ${root.line}: the file begins with ${root.name}, not with ProcessList.`);
  const steps = root.children.filter((e) => !TOLD.includes(e.name));
  if (steps.length === 0) throw new FormatError('ProcessList: there is no process node in it.');
  if (steps.length > MAX_NODES) throw new FormatError(`ProcessList: there are more than ${MAX_NODES} process nodes.`);
  const broken = steps.findIndex((e, i) => i > 0 && e.attributes.inBitDepth !== steps[i - 1].attributes.outBitDepth);
  if (broken > 0)
    throw new FormatError(`${where(steps[broken])}: its inBitDepth is not the outBitDepth of the node before it.`);
  const nodes = steps.map((e) => {
    const read = READERS.get(e.name);
    if (!read) throw new FormatError(`${where(e)} is not a process node that is known here.`);
    return read(e);
  });
  return { id: root.attributes.id ?? '', name: (root.attributes.name ?? '').slice(0, 200), nodes };
}
