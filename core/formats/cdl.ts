import { FormatError } from './error';
import { escapeXml, parseXml, type Element } from './xml';

type Three = [number, number, number];

/** An ASC CDL v1.2 correction: out = clamp(in · slope + offset) ^ power, then saturation about BT.709 luma. */
export interface Cdl {
  id: string;
  slope: Three;
  offset: Three;
  power: Three;
  saturation: number;
}

export const NEUTRAL_CDL: Omit<Cdl, 'id'> = { slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 };

const six = (v: number): string => Number(v.toFixed(6)).toString();

/** A correction as a `.cc` file. */
export function writeCc({ id, slope, offset, power, saturation }: Cdl): string {
  const three = (name: string, v: Three): string => `    <${name}>${v.map(six).join(' ')}</${name}>`;
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<ColorCorrection id="${escapeXml(id)}" xmlns="urn:ASC:CDL:v1.2">`,
    '  <SOPNode>',
    three('Slope', slope),
    three('Offset', offset),
    three('Power', power),
    '  </SOPNode>',
    '  <SatNode>',
    `    <Saturation>${six(saturation)}</Saturation>`,
    '  </SatNode>',
    '</ColorCorrection>',
    '',
  ].join('\n');
}

/** Maximum file length in characters, and maximum number of corrections. */
const MAX_LENGTH = 4_000_000;
const MAX_CORRECTIONS = 2000;

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$/;

/** The first descendant element with this name. */
function find(element: Element, name: string): Element | undefined {
  for (const child of element.children) {
    const found = child.name === name ? child : find(child, name);
    if (found) return found;
  }
  return undefined;
}

const findAll = (element: Element, name: string): Element[] =>
  element.name === name ? [element] : element.children.flatMap((child) => findAll(child, name));

function numbersIn(correction: Element, name: string, count: number, id: string): number[] | undefined {
  const found = find(correction, name);
  if (!found) return undefined;
  const words = found.text.trim().split(/\s+/);
  const values = words.map((w) => (NUMBER.test(w) ? Number(w) : NaN));
  if (values.length !== count || !values.every(Number.isFinite))
    throw new FormatError(
      `Line ${found.line}: ${name} of "${id}" must hold ${count === 1 ? 'a number' : `${count} numbers`}.`,
    );
  return values;
}

/**
 * Reads the corrections of a `.cc`, `.ccc` or `.cdl` file; missing values are neutral. Throws a {@link FormatError}
 * that names the line. Only elements of the format are considered: no entities, no includes.
 */
export function readCdl(text: string): Cdl[] {
  if (text.length > MAX_LENGTH) throw new FormatError(`This file is larger than ${MAX_LENGTH / 1e6} MB.`);
  const corrections = findAll(parseXml(text), 'ColorCorrection');
  if (corrections.length === 0) throw new FormatError('There is no ColorCorrection in this file.');
  if (corrections.length > MAX_CORRECTIONS)
    throw new FormatError(`A file holds at most ${MAX_CORRECTIONS} corrections.`);
  return corrections.map((correction, i) => {
    const id = correction.attributes.id ?? `correction ${i + 1}`;
    const three = (element: string, neutral: Three): Three =>
      (numbersIn(correction, element, 3, id) as Three | undefined) ?? neutral;
    const slope = three('Slope', NEUTRAL_CDL.slope);
    const offset = three('Offset', NEUTRAL_CDL.offset);
    const power = three('Power', NEUTRAL_CDL.power);
    const saturation = numbersIn(correction, 'Saturation', 1, id)?.[0] ?? 1;
    if (slope.some((v) => v < 0)) throw new FormatError(`Slope of "${id}" must not be below 0.`);
    if (power.some((v) => v <= 0)) throw new FormatError(`Power of "${id}" must be above 0.`);
    if (saturation < 0) throw new FormatError(`Saturation of "${id}" must not be below 0.`);
    return { id, slope, offset, power, saturation };
  });
}

/** Applies a correction to one encoded colour, as ASC CDL v1.2 defines it. */
export function applyCdl({ slope, offset, power, saturation }: Omit<Cdl, 'id'>, rgb: Readonly<Three>): Three {
  const clamp = (v: number): number => Math.min(1, Math.max(0, v));
  const [r, g, b] = rgb.map((v, i) => clamp(v * slope[i] + offset[i]) ** power[i]);
  const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  return [r, g, b].map((v) => clamp(luma + saturation * (v - luma))) as Three;
}
