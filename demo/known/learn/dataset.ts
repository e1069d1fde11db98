import { closeSync, existsSync, mkdirSync, openSync, readFileSync, renameSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { GRID_CELLS, GRID_HEIGHT, GRID_WIDTH, gridOf, type Grid } from '@inkavo/core/reading/grid';
import { repositoryRoot } from '@inkavo/media/root';
import { CASE_KINDS, makeCase, type CaseKind } from '../cases';
import { isProgram, ownProcess } from '../ownProcess';
import { fetchPhotographs, type Part } from '../photographs';
import { KNOWN_HEIGHT, KNOWN_WIDTH } from '../surfaces';

/** A subsampled known case for training. */
export interface Sample {
  kind: CaseKind;
  seed: number;
  grid: Grid;
  truth: Grid;
  /** Transmission to the camera. */
  through: Float32Array;
}

/** Frequency of each kind. Flat recordings of haze are made in separate batches. */
const KINDS: readonly (CaseKind | null)[] = [
  ...(['water', 'haze', 'water', 'flat', 'white', 'good', 'water'] as const),
  ...(['haze', null, 'good', 'white', 'flat', 'good', 'white'] as const),
];
const HEADER = 4;
const RECORD = HEADER + 7 * GRID_CELLS;
const CACHE = join(repositoryRoot(), 'demo/known/learn/cache');
/** Number of cases per process. */
const BATCH = 400;

/**
 * The usual kinds; flat recordings of haze, each as recorded and in standard video; or flat recordings of hidden
 * faults, with the full truth.
 */
type Set = 'usual' | 'mixed' | 'flats';
const FLATS: readonly CaseKind[] = ['mixed', 'flat', 'tinted'];
/** Parameters of a batch. */
interface Batch {
  part: Part;
  set: Set;
  from: number;
  /** Photographs are cropped and varied. */
  varied: boolean;
}
const fileOf = ({ part, set, from, varied }: Batch): string =>
  join(CACHE, [part, ...(varied ? ['varied'] : []), ...(set === 'usual' ? [] : [set]), `${from}.bin`].join('-'));

/** Stride in pixels of a half-size picture for a grid, from the centre of the first cell on. */
const thin = (picture: Float32Array, channels: number): Float32Array => {
  const width = KNOWN_WIDTH / 2;
  const out = new Float32Array(channels * GRID_CELLS);
  for (let i = 0; i < GRID_CELLS; i += 1) {
    const y = Math.floor((Math.floor(i / GRID_WIDTH) + 0.5) * (KNOWN_HEIGHT / 2 / GRID_HEIGHT));
    const x = Math.floor(((i % GRID_WIDTH) + 0.5) * (width / GRID_WIDTH));
    for (let c = 0; c < channels; c += 1) out[channels * i + c] = picture[channels * (y * width + x) + c];
  }
  return out;
};

function makeBatch(batch: Batch): void {
  const { part, set, from, varied } = batch;
  const path = fileOf(batch);
  const file = openSync(`${path}.part`, 'w');
  const write = (kind: CaseKind, seed: number, grid: Grid, truth: Grid, through: Float32Array): void => {
    const out = new Float32Array(RECORD);
    out[0] = CASE_KINDS.indexOf(kind);
    out[1] = seed;
    for (let i = 0; i < GRID_CELLS; i += 1) {
      const o = HEADER + 7 * i;
      out.set(grid.subarray(3 * i, 3 * i + 3), o);
      out.set(truth.subarray(3 * i, 3 * i + 3), o + 3);
      out[o + 6] = through[i];
    }
    writeSync(file, new Uint8Array(out.buffer));
  };
  for (let seed = from; seed < from + BATCH; seed += 1) {
    const kind = set === 'mixed' ? 'mixed' : set === 'flats' ? FLATS[seed % FLATS.length] : KINDS[seed % KINDS.length];
    if (!kind) continue;
    const made = makeCase({ seed, kind, part, pictures: 1, half: true, varied });
    const [truth, standard, through] = [thin(made.truth(), 3), thin(made.standard(), 3), thin(made.through(), 1)];
    write(kind, seed, gridOf(downsample(made.frames[0])), set === 'mixed' ? standard : truth, through);
    if (set === 'mixed') write('haze', seed, standard, truth, through);
  }
  closeSync(file);
  renameSync(`${path}.part`, path);
}

function readBatch(path: string): Sample[] {
  const bytes = readFileSync(path);
  const all = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
  return Array.from({ length: all.length / RECORD }, (_, k) => {
    const record = all.subarray(k * RECORD, (k + 1) * RECORD);
    const [grid, truth] = [new Float32Array(3 * GRID_CELLS), new Float32Array(3 * GRID_CELLS)];
    const through = new Float32Array(GRID_CELLS);
    for (let i = 0; i < GRID_CELLS; i += 1) {
      const o = HEADER + 7 * i;
      grid.set(record.subarray(o, o + 3), 3 * i);
      truth.set(record.subarray(o + 3, o + 6), 3 * i);
      through[i] = record[o + 6];
    }
    return { kind: CASE_KINDS[record[0]], seed: record[1], grid, truth, through };
  });
}

/** Batches for this many seeds of a set, made by two concurrent processes if not cached. */
async function ofSet(part: Part, set: Set, count: number, varied: boolean): Promise<Sample[]> {
  fetchPhotographs();
  mkdirSync(CACHE, { recursive: true });
  const batches = Array.from({ length: Math.ceil(count / BATCH) }, (_, i): Batch => ({
    part,
    set,
    from: i * BATCH,
    varied,
  }));
  const waiting = batches.filter((b) => !existsSync(fileOf(b)));
  const work = async (): Promise<void> => {
    for (let batch = waiting.shift(); batch; batch = waiting.shift()) {
      await ownProcess(__filename, [JSON.stringify(batch)]);
    }
  };
  await Promise.all([work(), work()]);
  return batches.flatMap((b) => readBatch(fileOf(b)));
}

/**
 * Samples of a part: of this many usual seeds, and a quarter as many flat recordings of haze. The truth of the latter
 * is the same haze in standard video. `varied`: photographs are cropped and varied.
 */
export const samples = async (part: Part, count: number, varied = false): Promise<Sample[]> => [
  ...(await ofSet(part, 'usual', count, varied)).filter((s) => s.kind !== 'mixed'),
  ...(await ofSet(part, 'mixed', count / 4, varied)),
];

/**
 * Samples of flat recordings in equal numbers: of haze, of nothing else, of a wrong white. Their truth is the full
 * truth.
 */
export const flats = (part: Part, count: number, varied: boolean): Promise<Sample[]> =>
  ofSet(part, 'flats', count, varied);

if (isProgram('dataset')) makeBatch(JSON.parse(process.argv[2]) as Batch);
