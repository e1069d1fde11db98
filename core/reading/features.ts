import { decode709 } from '../colour/transferTables';
import { luma709 } from '../colour/ycbcr';
import { GRID_CELLS, GRID_HEIGHT, GRID_WIDTH, type Grid } from './grid';

/** A colour as log ratios of red and blue to green (natural logarithms of linear light). */
type LogChroma = [red: number, blue: number];

/** Light below this is noise. */
const DARK = 1e-3;
/** Offset added before taking logarithms of single cells, so that dark ones have little influence. */
const LIFT = 0.004;
const LUMA_AT = [0.005, 0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98, 0.995];
const CHANNEL_AT = [0.01, 0.05, 0.25, 0.5, 0.75, 0.95, 0.99];
const BANDS = 5;
const HUES = 8;
const [BLOCKS_ACROSS, BLOCKS_DOWN] = [8, 6];
/** Chroma (of Cb and Cr, 0–0.5) below which a cell counts as neutral. */
const NEUTRAL = 0.02;

const logRatio = (a: number, b: number): number => Math.log(Math.max(a, DARK) / Math.max(b, DARK));
const logChroma = (m: ArrayLike<number>): LogChroma => [logRatio(m[0], m[1]), logRatio(m[2], m[1])];
const at = (sorted: Float32Array, share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))];

// Runs thousands of times per clip: plain loops without allocation.
function mean(a: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 1) sum += a[i];
  return sum / a.length;
}

function covariance(a: readonly number[], b: readonly number[]): number {
  const [ma, mb] = [mean(a), mean(b)];
  let sum = 0;
  for (let i = 0; i < a.length; i += 1) sum += (a[i] - ma) * (b[i] - mb);
  return sum / a.length;
}
const deviation = (a: readonly number[]): number => Math.sqrt(Math.max(0, covariance(a, a)));
const correlation = (a: readonly number[], b: readonly number[]): number =>
  covariance(a, b) / Math.max(1e-5, deviation(a) * deviation(b) + 1e-4);

/** A grid with the intermediate values that the groups of features share. */
interface Cells {
  encoded: Float32Array;
  linear: Float32Array;
  luma: Float32Array;
  /** Encoded values of each channel, sorted. */
  channels: Float32Array[];
  /** Light of the darkest hundredth of each channel. */
  dark: number[];
}

function cellsOf(grid: Grid): Cells {
  const [encoded, linear] = [new Float32Array(grid.length), new Float32Array(grid.length)];
  for (let o = 0; o < grid.length; o += 1) {
    encoded[o] = Math.min(1, Math.max(0, grid[o]));
    linear[o] = decode709(encoded[o]);
  }
  const luma = new Float32Array(GRID_CELLS);
  const channels = [0, 1, 2].map(() => new Float32Array(GRID_CELLS));
  for (let i = 0; i < GRID_CELLS; i += 1) {
    luma[i] = luma709(encoded[3 * i], encoded[3 * i + 1], encoded[3 * i + 2]);
    for (let c = 0; c < 3; c += 1) channels[c][i] = encoded[3 * i + c];
  }
  for (const sorted of channels) sorted.sort();
  return { encoded, linear, luma, channels, dark: channels.map((s) => decode709(at(s, 0.01))) };
}

/** Percentiles of luma and of each channel. */
function levels({ luma, channels }: Cells): number[] {
  const sorted = luma.slice().sort();
  return [...LUMA_AT.map((p) => at(sorted, p)), ...channels.flatMap((s) => CHANNEL_AT.map((p) => at(s, p)))];
}

/** Minkowski means of the light, less a share of the darkest hundredth. */
function minkowski({ linear, dark }: Cells, exponent: number, share: number): number[] {
  return [0, 1, 2].map((c) => {
    let sum = 0;
    for (let i = c; i < linear.length; i += 3) {
      const light = Math.max(1e-4, linear[i] - share * dark[c]);
      sum += exponent === 1 ? light : light ** exponent;
    }
    return (sum / GRID_CELLS) ** (1 / exponent);
  });
}

/**
 * Estimates of the illuminant by standard methods: grey world (Buchsbaum 1980), shades of grey (Finlayson and Trezzi
 * 2004), each also without the darkest light; the darkest light itself; grey edge (van de Weijer et al. 2007) and the
 * amount of edges.
 */
function casts(cells: Cells): number[] {
  const { linear, dark } = cells;
  const edges = [0, 0, 0];
  for (let y = 0; y < GRID_HEIGHT; y += 1)
    for (let i = 3 * y * GRID_WIDTH; i < 3 * ((y + 1) * GRID_WIDTH - 1); i += 1)
      edges[i % 3] += Math.abs(linear[i + 3] - linear[i]);
  const world = minkowski(cells, 1, 0);
  return [
    ...[world, minkowski(cells, 6, 0), minkowski(cells, 1, 0.9), minkowski(cells, 6, 0.9), dark, edges].flatMap(
      logChroma,
    ),
    Math.log(1e-3 + edges[1] / GRID_CELLS / Math.max(1e-3, world[1])),
  ];
}

/** Mean, spread and covariance of log chroma in five bands of luma with equal numbers of cells. */
function bands({ linear, luma }: Cells): number[] {
  const order = Array.from(luma.keys()).sort((a, b) => luma[a] - luma[b]);
  return Array.from({ length: BANDS }, (_, k) => {
    const some = order.slice(Math.floor((k * GRID_CELLS) / BANDS), Math.floor(((k + 1) * GRID_CELLS) / BANDS));
    const green = some.map((i) => linear[3 * i + 1] + LIFT);
    const red = some.map((i, j) => logRatio(linear[3 * i] + LIFT, green[j]));
    const blue = some.map((i, j) => logRatio(linear[3 * i + 2] + LIFT, green[j]));
    return [mean(red), mean(blue), deviation(red), deviation(blue), covariance(red, blue)];
  }).flat();
}

/** How colourful the frame is, and in which hues. */
function colours({ encoded, luma }: Cells): number[] {
  const saturation = new Float32Array(GRID_CELLS);
  const chroma = new Float32Array(GRID_CELLS);
  const hues = new Float64Array(HUES);
  let [neutral, total] = [0, 0];
  for (let i = 0; i < GRID_CELLS; i += 1) {
    const [r, g, b] = [encoded[3 * i], encoded[3 * i + 1], encoded[3 * i + 2]];
    const most = Math.max(r, g, b);
    saturation[i] = (most - Math.min(r, g, b)) / Math.max(0.02, most);
    const [cb, cr] = [(b - luma[i]) / 1.8556, (r - luma[i]) / 1.5748];
    chroma[i] = Math.hypot(cb, cr);
    total += chroma[i];
    if (chroma[i] < NEUTRAL) neutral += 1;
    const place = (Math.atan2(cr, cb) / (2 * Math.PI) + 1) * HUES;
    const low = Math.floor(place);
    hues[low % HUES] += chroma[i] * (1 - place + low);
    hues[(low + 1) % HUES] += chroma[i] * (place - low);
  }
  saturation.sort();
  chroma.sort();
  return [
    ...[0.05, 0.25, 0.5, 0.75, 0.95].map((p) => at(saturation, p)),
    ...[0.1, 0.5, 0.95].map((p) => at(chroma, p)),
    neutral / GRID_CELLS,
    ...Array.from(hues, (h) => h / Math.max(1e-6, total)),
    ...Array.from(hues, (h) => (10 * h) / GRID_CELLS),
  ];
}

/** Upper, middle and lower third of the picture: levels, dark channel, colour, detail. */
function thirds({ encoded, linear, luma }: Cells): number[] {
  return [0, 1, 2].flatMap((k) => {
    const [from, to] = [k, k + 1].map((t) => Math.floor((t * GRID_HEIGHT) / 3) * GRID_WIDTH);
    const sorted = luma.slice(from, to).sort();
    const sums = [0, 0, 0];
    for (let i = 3 * from; i < 3 * to; i += 1) sums[i % 3] += linear[i];
    let detail = 0;
    for (let i = from; i < to; i += 1) if (i % GRID_WIDTH < GRID_WIDTH - 1) detail += Math.abs(luma[i + 1] - luma[i]);
    const darkest = [0, 1, 2].map((c) =>
      at(new Float32Array(to - from).map((_, i) => encoded[3 * (from + i) + c]).sort(), 0.03),
    );
    return [...[0.03, 0.5, 0.97].map((p) => at(sorted, p)), ...darkest, ...logChroma(sums), detail / (to - from)];
  });
}

/** Blocks of the picture: correlations of dark channel, contrast, colour and height. */
function blocks({ encoded, linear, luma }: Cells): number[] {
  const [wide, high] = [GRID_WIDTH / BLOCKS_ACROSS, GRID_HEIGHT / BLOCKS_DOWN];
  const read = Array.from({ length: BLOCKS_ACROSS * BLOCKS_DOWN }, (_, block) => {
    const left = (block % BLOCKS_ACROSS) * wide;
    const top = Math.floor(block / BLOCKS_ACROSS) * high;
    const sums = [0, 0, 0];
    const values: number[] = [];
    let dark = 1;
    for (let y = top; y < top + high; y += 1)
      for (let x = left; x < left + wide; x += 1) {
        const i = y * GRID_WIDTH + x;
        values.push(luma[i]);
        for (let c = 0; c < 3; c += 1) {
          dark = Math.min(dark, encoded[3 * i + c]);
          sums[c] += linear[3 * i + c];
        }
      }
    const [red, blue] = logChroma(sums);
    return { dark, level: mean(values), contrast: deviation(values), red, blue, height: top };
  });
  const all = (key: keyof (typeof read)[number]): number[] => read.map((b) => b[key]);
  const sorted = (key: keyof (typeof read)[number]): Float32Array => Float32Array.from(all(key)).sort();
  const together = (a: keyof (typeof read)[number], b: keyof (typeof read)[number]): number =>
    correlation(all(a), all(b));
  return [
    ...[0, 0.25, 0.5, 0.75, 0.98].map((p) => at(sorted('dark'), p)),
    ...[0.1, 0.5, 0.9].map((p) => at(sorted('contrast'), p)),
    ...[all('dark'), all('red'), all('blue')].map(deviation),
    together('dark', 'contrast'),
    together('level', 'contrast'),
    together('dark', 'red'),
    together('dark', 'blue'),
    together('contrast', 'red'),
    together('contrast', 'blue'),
    together('red', 'blue'),
    together('dark', 'height'),
    together('contrast', 'height'),
    together('red', 'height'),
    together('blue', 'height'),
  ];
}

/** Features of one frame: some 140 plain numbers in a fixed order. */
export function features(grid: Grid): Float32Array {
  const cells = cellsOf(grid);
  return Float32Array.from([levels, casts, bands, colours, thirds, blocks].flatMap((group) => group(cells)));
}
