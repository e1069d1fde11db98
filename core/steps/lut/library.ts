import { clfFunction } from '../../formats/clf/apply';
import { readClf } from '../../formats/clf/read';
import { readCube } from '../../formats/cube';
import { FormatError } from '../../formats/error';
import { lutFunction } from '../../formats/tables';
import type { PointFn } from '../types';

/** A look-up table, or a list of them, as a file holds it. */
export interface LutFile {
  title: string;
  /** What kind it is, in a few words: "33³ cube". */
  note: string;
  /** Encoded R'G'B' in, encoded R'G'B' out. */
  apply: PointFn;
}

/** Reads a `.cube` or a Common LUT Format file, whichever it is. Throws a {@link FormatError}. */
export function readLut(text: string): LutFile {
  if (!/^\uFEFF?\s*</.test(text)) {
    const lut = readCube(text);
    const note = lut.dimensions === 3 ? `${lut.size}³ cube` : `curves, ${lut.size} entries`;
    return { title: lut.title, note, apply: lutFunction(lut) };
  }
  const list = readClf(text);
  try {
    const note = `CLF, ${list.nodes.length} process node${list.nodes.length === 1 ? '' : 's'}`;
    return { title: list.name, note, apply: clfFunction(list) };
  } catch (error) {
    if (error instanceof RangeError) throw new FormatError(error.message);
    throw error;
  }
}

const known = new Map<string, { text: string; file: LutFile }>();

/** Makes a table known under its id, so that steps can use it. Throws a {@link FormatError}; then it is not known. */
export function provideLut(id: string, text: string): void {
  if (!known.has(id)) known.set(id, { text, file: readLut(text) });
}

export const knownLut = (id: string): LutFile | undefined => known.get(id)?.file;

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

/** Text of the tables that steps use, by id, as far as they are known: what another thread or a file needs. */
export const lutTexts = (steps: readonly UsesLut[]): Record<string, string> =>
  Object.fromEntries(lutIds(steps).flatMap((id) => (known.has(id) ? [[id, known.get(id)!.text]] : [])));
