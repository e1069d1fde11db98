import { expose, transfer } from 'comlink';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Step } from '@inkavo/core/model/grade';
import { bake, lookUp, type Table } from '@inkavo/core/program/bake';
import { compile, compileBefore } from '@inkavo/core/program/compile';
import { pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import {
  clippingReading,
  castReadings,
  rangeReading,
  saturationReading,
  type Reading,
} from '@inkavo/core/scopes/readings';
import { meanOfArea, sampleArea, type Area } from '@inkavo/core/scopes/sampleArea';
import { grabSample, solve, type Grab, type GrabSample, type Solution } from '@inkavo/core/scopes/solver';
import { fileEnds, measure, type FileEnds, type Statistics } from '@inkavo/core/scopes/statistics';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import { automaticBalances, type AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import { pickNeutral, type NeutralPick } from '@inkavo/core/steps/balance/pick';
import { api as server } from '../api/client';
import { knownLut, lutIds, provideLut } from '@inkavo/core/steps/lut/library';
import { paintLuma, paintParade } from './paintTrace';

/** Steps at a time of a clip. */
export interface Moment {
  steps: Step[];
  /** Seconds from the clip's first frame. */
  seconds: number;
}

export interface ScopeRequest {
  /** Table of the grade; null for a frame without steps. */
  table: Table | null;
  view: 'luma' | 'parade';
  /** Size of the trace in pixels. */
  columns: number;
  rows: number;
  /** While a finger is down every second row is enough. */
  rough: boolean;
}

export interface ScopeResult {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  columns: number;
  rows: number;
  statistics: Statistics;
  readings: Reading[];
}

export interface ColourReading {
  /** Mean encoded R'G'B', as recorded and as graded. */
  before: [number, number, number];
  after: [number, number, number];
}

interface Frame {
  width: number;
  height: number;
  code: Float32Array;
  ends: FileEnds;
}

/** So many pixels, spread over the frame, are enough to find the light. */
const AUTOMATIC_PIXELS = 60_000;

let frame: Frame | undefined;

/** Pixels of the frame through a table: every row, or every second one. */
function gradedPixels(
  { width, height, code }: Frame,
  table: Table | null,
  rough: boolean,
): { graded: Float32Array; code: Float32Array; height: number } {
  if (!rough && !table) return { graded: code, code, height };
  const stride = rough ? 2 : 1;
  const rows = Math.ceil(height / stride);
  const line = width * 3;
  const source = rough ? new Float32Array(rows * line) : code;
  if (rough)
    for (let y = 0; y < rows; y += 1) source.set(code.subarray(y * stride * line, (y * stride + 1) * line), y * line);
  if (!table) return { graded: source, code: source, height: rows };
  const graded = new Float32Array(source.length);
  for (let o = 0; o < source.length; o += 3) lookUp(table, source[o], source[o + 1], source[o + 2], graded, o);
  return { graded, code: source, height: rows };
}

/** The worst first: what can be mended comes before what is well. */
function readingsOf(statistics: Statistics): Reading[] {
  const all = [
    clippingReading(statistics),
    rangeReading(statistics),
    ...castReadings(statistics),
    saturationReading(statistics),
  ];
  return [...all.filter((r) => r.mend), ...all.filter((r) => !r.mend)];
}

/** Fetches the tables that steps use and that this worker does not know yet. */
async function fetchLuts(steps: Step[]): Promise<void> {
  for (const id of lutIds(steps)) if (!knownLut(id)) provideLut(id, await server.lutText(id));
}

const api = {
  /** Bakes the table of a grade, or null when its steps do nothing. */
  async bake({ steps, seconds }: Moment, size: number): Promise<Table | null> {
    await fetchLuts(steps);
    const [pass] = compile(steps, seconds).passes;
    if (!pass) return null;
    const table = bake(pass, size);
    return transfer(table, [table.data.buffer as ArrayBuffer]);
  },

  /** Takes the frame that everything here is measured on. */
  setFrame(buffer: ArrayBuffer, format: PlanarFormat): void {
    const code = pictureToRgb(undefined, planesOver(buffer, format));
    frame = { width: format.width, height: format.height, code, ends: fileEnds(code) };
  },

  /** Trace, statistics and readings of the frame through a table. */
  scope({ table, view, columns, rows, rough }: ScopeRequest): ScopeResult | null {
    if (!frame) return null;
    const { graded, code, height } = gradedPixels(frame, table, rough);
    const cols = view === 'parade' ? Math.floor(columns / 3) : columns;
    const trace = traceWaveform(graded, frame.width, height, cols, rows);
    const painted = view === 'parade' ? paintParade(trace) : paintLuma(trace);
    const statistics = measure(graded, code, frame.ends);
    const result = { ...painted, statistics, readings: readingsOf(statistics) };
    return transfer(result, [painted.pixels.buffer]);
  },

  /** From an area of the picture to the parameters of a balance step, or a refusal. */
  async pick({ steps, seconds }: Moment, stepId: string, area: Area): Promise<NeutralPick | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    const before = compileBefore(steps, stepId, seconds);
    return pickNeutral(sampleArea(frame.code, frame.width, frame.height, area, before, frame.ends));
  },

  /** What each automatic method makes of the frame as it enters a balance step. */
  async automatic({ steps, seconds }: Moment, stepId: string): Promise<AutomaticBalance[]> {
    if (!frame) return [];
    await fetchLuts(steps);
    const { code, ends } = frame;
    const before = compileBefore(steps, stepId, seconds);
    const stride = Math.max(1, Math.floor(code.length / 3 / AUTOMATIC_PIXELS));
    const count = Math.floor(code.length / 3 / stride);
    const sample = { linear: new Float64Array(count * 3), clipped: new Uint8Array(count) };
    const rgb: Vec3 = [0, 0, 0];
    for (let i = 0; i < count; i += 1) {
      const o = i * stride * 3;
      for (let c = 0; c < 3; c += 1) rgb[c] = code[o + c];
      if (Math.max(...rgb) >= ends.high || Math.min(...rgb) <= ends.low) sample.clipped[i] = 1;
      before(rgb);
      sample.linear.set(rgb, i * 3);
    }
    return automaticBalances(sample);
  },

  /** Mean colour of an area before and after the grade. */
  readColour(table: Table | null, area: Area): ColourReading | null {
    if (!frame) return null;
    const before = meanOfArea(frame.code, frame.width, frame.height, area);
    const after: ColourReading['after'] = [...before];
    if (table) lookUp(table, before[0], before[1], before[2], after);
    return { before, after };
  },

  /** The pixels around a grabbed part of the trace. */
  grab(table: Table | null, part: Grab): GrabSample | null {
    if (!frame) return null;
    // Every pixel: at the foot of a cliff in the distribution, a few ranks are many levels.
    const { graded, code } = gradedPixels(frame, table, false);
    return grabSample(code, graded, part);
  },

  /** The value of a step's number for which a grabbed part lands where it was let go. */
  solve(sample: GrabSample, { steps, seconds }: Moment, stepId: string, key: string, target: number): Solution {
    return solve(sample, steps, stepId, key, target, seconds);
  },
};

export type EngineApi = typeof api;
expose(api);
