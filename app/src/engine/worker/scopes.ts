import { transfer } from 'comlink';
import type { Planes } from '@inkavo/core/program/planes';
import { levelHistograms, zoneShares, type Levels } from '@inkavo/core/scopes/levels';
import {
  castReadings,
  clippingReading,
  rangeReading,
  saturationReading,
  type Reading,
} from '@inkavo/core/scopes/readings';
import { toneHeights } from '@inkavo/core/scopes/solver';
import { measure, type Statistics } from '@inkavo/core/scopes/statistics';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import { hueHistogram, measureMarks, traceVectorscope, type MarkColours } from '@inkavo/core/scopes/vectorscope';
import type { BandEdges } from '@inkavo/core/steps/bands/weights';
import { fetchLuts } from './baking';
import { readPixels } from './chosenPixels';
import { received, type Moment, type Stamped } from './frame';
import { gradingBackend } from './grading';
import { measuredFrame } from './measuredFrame';
import { paintLuma, paintParade, paintVectorscope, type PaintedTrace } from './paintTrace';

/** The view below the picture. */
export type MainTrace = 'luma' | 'parade' | 'histogram' | null;

export interface ScopeRequest {
  /** Planes may be those of the previous request, which need not be sent again. */
  from: Omit<Stamped, 'planes'> & { planes: Planes | 'as before' };
  main: MainTrace;
  /** Size of the trace in pixels. */
  columns: number;
  rows: number;
  /** The vectorscope, if requested: edge in pixels, and zoom. */
  pad: { size: number; zoom: number } | null;
  /** Where the bands give way to each other. */
  edges: BandEdges;
  /** Tones of a step whose heights on the waveform are requested. */
  tones: { moment: Moment; stepId: string; tones: readonly number[] } | null;
  /** The grade includes a step that deals with a flat recording. */
  unflattened: boolean;
  /** The grade keeps the colour of open water. */
  openWater: boolean;
  /** The hue histogram is requested. */
  hues: boolean;
  /** During a drag a ninth of the pixels is measured, and traces have half the size. */
  rough: boolean;
}

export interface ScopeResult {
  main: PaintedTrace | null;
  pad: PaintedTrace | null;
  levels: Levels | null;
  statistics: Statistics;
  marks: MarkColours;
  /** Amount of colour at each hue, normalised to 1; null if not requested. */
  hues: Float32Array | null;
  /** Share of the frame in each of the eleven zones. */
  zones: number[];
  readings: Reading[];
  /** Limited to the selection of a region. */
  within: boolean;
  /** Backend that graded the frame. */
  backend: 'kernel' | 'plain';
  /** Heights of the requested tones. */
  heights: number[];
}

const CHANNELS = ['red', 'green', 'blue'] as const;
/** Bins of the histogram below the picture. */
const LEVEL_BINS = 244;
/** Planes of the last request for traces. */
let scopedPlanes: Planes = [];

function paintMain(
  main: MainTrace,
  graded: Float32Array,
  width: number,
  height: number,
  columns: number,
  rows: number,
): PaintedTrace | null {
  if (main === 'luma') return paintLuma(traceWaveform(graded, width, height, columns, rows, ['luma']));
  if (main === 'parade')
    return paintParade(traceWaveform(graded, width, height, Math.floor(columns / 3), rows, CHANNELS));
  return null;
}

function readingsOf(statistics: Statistics, { unflattened, openWater }: ScopeRequest): Reading[] {
  const all = [
    clippingReading(statistics),
    rangeReading(statistics, unflattened),
    ...castReadings(statistics, openWater),
    saturationReading(statistics),
  ];
  return [...all.filter((r) => r.mend), ...all.filter((r) => !r.mend)];
}

/** Scopes of the whole frame. */
export const scopesApi = {
  /** Traces, statistics and readings of the graded frame. */
  async scope(request: ScopeRequest): Promise<ScopeResult | null> {
    if (request.from.planes !== 'as before') scopedPlanes = request.from.planes;
    const { ops } = received(request.from);
    const frame = measuredFrame();
    if (!frame) return null;
    const { main, edges, tones, rough } = request;
    const from: Stamped = { ...request.from, ops, planes: scopedPlanes };
    const coarse = rough ? 2 : 1;
    const [columns, rows] = [request.columns, request.rows].map((n) => Math.max(1, Math.round(n / coarse)));
    const pad = request.pad && { ...request.pad, size: Math.max(1, Math.round(request.pad.size / coarse)) };
    const { graded, code, placed, within, width, height } = readPixels(frame, from, rough);
    const statistics = measure(graded, code, frame.ends);
    if (tones) await fetchLuts(tones.moment.steps);
    const result: ScopeResult = {
      main: paintMain(main, placed, width, height, columns, rows),
      pad: pad && paintVectorscope(traceVectorscope(graded, pad.size, pad.zoom), pad.size, graded.length / 3),
      levels: main === 'histogram' ? levelHistograms(graded, LEVEL_BINS) : null,
      statistics,
      marks: measureMarks(graded, edges),
      hues: request.hues ? hueHistogram(graded) : null,
      zones: zoneShares(graded),
      readings: readingsOf(statistics, request),
      backend: gradingBackend(),
      within,
      heights: tones ? toneHeights(tones.moment.steps, tones.stepId, tones.tones, tones.moment.seconds) : [],
    };
    return transfer(
      result,
      [result.main, result.pad].flatMap((t) => (t ? [t.pixels.buffer] : [])),
    );
  },

  /** Traces of a picture from elsewhere: RGBA bytes. */
  tracesOf(
    bytes: Uint8ClampedArray,
    width: number,
    height: number,
    { main, columns, rows, pad }: Pick<ScopeRequest, 'main' | 'columns' | 'rows' | 'pad'>,
  ): Pick<ScopeResult, 'main' | 'pad'> {
    const rgb = new Float32Array(3 * width * height);
    for (let i = 0; i < rgb.length; i += 1) rgb[i] = bytes[4 * Math.floor(i / 3) + (i % 3)] / 255;
    return {
      main: paintMain(main, rgb, width, height, columns, rows),
      pad: pad && paintVectorscope(traceVectorscope(rgb, pad.size, pad.zoom), pad.size, rgb.length / 3),
    };
  },
};
