import { clfFunction } from '../../formats/clf/apply';
import { readClf } from '../../formats/clf/read';
import { readCube } from '../../formats/cube';
import { FormatError } from '../../formats/error';
import { lutFunction, tableOfClf, tableOfLut } from '../../formats/tables';
import { lookUp, type Table } from '../../program/table';
import type { PointFn } from '../types';
import { asHlg, hlgTable } from './asHlg';

/** A look-up table, or a list of them, from a file. */
export interface LutFile {
  title: string;
  /** Its type in a few words: "33³ cube". */
  note: string;
  /** Encoded R'G'B' in, encoded R'G'B' out. */
  apply: PointFn;
  /** The table with its own grid, where resampling would be visible. */
  own?: Table;
}

/** Maximum error of a resampled table: half a 10-bit code value. */
const SEEN = 0.5 / 1023;
/** Domain and size of resampled tables: equal to `TABLE_DOMAIN` and `REST_SIZE`. */
const [LOW, HIGH, SIZE] = [-2 / 27, 30 / 27, 65];

/** Whether a function can be resampled within that error, at test points. */
function samplesWell(apply: PointFn): boolean {
  const data = new Float32Array(SIZE ** 3 * 4);
  const rgb: [number, number, number] = [0, 0, 0];
  const at = (i: number): number => LOW + (i * (HIGH - LOW)) / (SIZE - 1);
  for (let i = 0; i < SIZE ** 3; i += 1) {
    rgb[0] = at(i % SIZE);
    rgb[1] = at(Math.floor(i / SIZE) % SIZE);
    rgb[2] = at(Math.floor(i / SIZE ** 2));
    apply(rgb);
    data.set(rgb, 4 * i);
  }
  const table: Table = { size: SIZE, domain: [LOW, HIGH], data };
  const sampled: [number, number, number] = [0, 0, 0];
  // Spread evenly over the cube (Roberts 2018: the R3 sequence), and along the greys.
  for (let k = 0; k < 6000; k += 1) {
    for (let c = 0; c < 3; c += 1) rgb[c] = k < 4000 ? (k * SPREAD[c] + 0.5) % 1 : (k - 4000) / 1999;
    lookUp(table, ...rgb, sampled);
    apply(rgb);
    if (rgb.some((v, c) => Math.abs(v - sampled[c]) > SEEN)) return false;
  }
  return true;
}
const SPREAD = [0.8191725134, 0.6710436067, 0.5497004779];

const withOwn = (file: LutFile, table: Table | undefined): LutFile =>
  table && !samplesWell(file.apply) ? { ...file, own: table } : file;

/** Reads a `.cube` or a Common LUT Format file, detecting which. Throws a {@link FormatError}. */
export function readLut(text: string): LutFile {
  if (!/^\uFEFF?\s*</.test(text)) {
    const lut = readCube(text);
    const cube = lut.curves ? `curves, then a ${lut.size}³ cube` : `${lut.size}³ cube`;
    const note = lut.dimensions === 3 ? cube : `curves, ${lut.size} entries`;
    return withOwn({ title: lut.title, note, apply: lutFunction(lut) }, tableOfLut(lut));
  }
  const list = readClf(text);
  try {
    const note = `CLF, ${list.nodes.length} process node${list.nodes.length === 1 ? '' : 's'}`;
    return withOwn({ title: list.name, note, apply: clfFunction(list) }, tableOfClf(list));
  } catch (error) {
    if (error instanceof RangeError) throw new FormatError(error.message);
    throw error;
  }
}

const known = new Map<string, { text: string; file: LutFile }>();

/** Registers a table under its id, for use by steps. Throws a {@link FormatError}, and then does not register it. */
export function provideLut(id: string, text: string): void {
  if (!known.has(id)) known.set(id, { text, file: readLut(text) });
}

/** Built-in tables: the conversion to HLG for delivery, baked with adjacent steps or behind other ops. */
export const AS_HLG = { baked: 'as-hlg', own: 'as-hlg-own' } as const;
const BUILT_IN: Record<string, () => LutFile> = {
  [AS_HLG.baked]: () => ({ title: 'HLG', note: 'BT.2100', apply: asHlg }),
  [AS_HLG.own]: () => ({ title: 'HLG', note: 'BT.2100', apply: asHlg, own: hlgTable() }),
};

export const knownLut = (id: string): LutFile | undefined =>
  known.get(id)?.file ?? (Object.hasOwn(BUILT_IN, id) ? BUILT_IN[id]() : undefined);

/** The table with its own grid that a step uses; undefined: it is baked with adjacent steps. */
export function ownTable({ kind, params }: UsesLut): { table: Table; apply: PointFn } | undefined {
  const file = kind === 'lut' && typeof params.lut === 'string' ? knownLut(params.lut) : undefined;
  return file?.own && { table: file.own, apply: file.apply };
}

interface UsesLut {
  kind: string;
  params: Record<string, unknown>;
}

/** Ids of the tables that steps use. */
export const lutIds = (steps: readonly UsesLut[]): string[] => [
  ...new Set(
    steps.flatMap(({ kind, params }) => (kind === 'lut' && typeof params.lut === 'string' ? [params.lut] : [])),
  ),
];

/** Text of the registered tables that steps use, by id, for another thread or a file. */
export const lutTexts = (steps: readonly UsesLut[]): Record<string, string> =>
  Object.fromEntries(lutIds(steps).flatMap((id) => (known.has(id) ? [[id, known.get(id)!.text]] : [])));
