import { expose, transfer } from 'comlink';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import type { Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { compileBefore } from '@inkavo/core/program/evaluate';
import { readHaze } from '@inkavo/core/reading/hazeReading';
import { readFrame } from '@inkavo/core/reading/readFrames';
import { unseenPlanes, smallValues, type Planes } from '@inkavo/core/program/planes';
import { smallFrom, type SmallPicture } from '@inkavo/core/fields/smallPicture';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import {
  clippingReading,
  castReadings,
  rangeReading,
  saturationReading,
  type Mark,
  type Reading,
} from '@inkavo/core/scopes/readings';
import { meanOfArea, sampleArea, type Area } from '@inkavo/core/scopes/sampleArea';
import { levelHistograms, zoneShares, type Levels } from '@inkavo/core/scopes/levels';
import { padSample, solvePad, type PadSample, type PadSolution } from '@inkavo/core/scopes/padSolver';
import {
  grabSample,
  planesAt,
  solve,
  toneHeights,
  valuesAt,
  type Grab,
  type GrabSample,
  type Solution,
} from '@inkavo/core/scopes/solver';
import { measure, type FileEnds, type Statistics } from '@inkavo/core/scopes/statistics';
import { traceWaveform } from '@inkavo/core/scopes/trace';
import {
  hueHistogram,
  measureMarks,
  traceVectorscope,
  type Chroma,
  type MarkColours,
} from '@inkavo/core/scopes/vectorscope';
import { bt709 } from '@inkavo/core/colour/transfer';
import { rgbToYcbcr } from '@inkavo/core/colour/ycbcr';
import { apartOf, likeSchema } from '@inkavo/core/regions/matte';
import { REGION } from '@inkavo/core/regions/region';
import type { BandEdges } from '@inkavo/core/steps/bands/weights';
import { automaticBalances, type AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import { pickNeutral, type NeutralPick, type NeutralSample } from '@inkavo/core/steps/balance/pick';
import { bakingApi, fetchLuts } from './baking';
import { readPixels } from './chosenPixels';
import {
  frameOf,
  gradedPixels,
  planesFor,
  pixelPlanes,
  type CellsOfFile,
  type Frame,
  type Moment,
  type Stamped,
} from './frame';
import { gradeFile, type GradeFileRequest } from '@inkavo/core/formats/gradeFile';
import { gradingBackend, gradingReady } from './grading';
import { paintLuma, paintParade, paintVectorscope, type PaintedTrace } from './paintTrace';

/** What lies under the picture. */
export type MainTrace = 'luma' | 'parade' | 'histogram' | null;

export interface ScopeRequest {
  /** Its planes may be those of the request before: they need not be sent again. */
  from: Omit<Stamped, 'planes'> & { planes: Planes | 'as before' };
  main: MainTrace;
  /** Size of the trace in pixels. */
  columns: number;
  rows: number;
  /** The vectorscope, where it is wanted: pixels an edge, and how far it is magnified. */
  pad: { size: number; zoom: number } | null;
  /** Where the bands give way to each other. */
  edges: BandEdges;
  /** Tones of steps whose height on the waveform is wanted. */
  tones: { moment: Moment; stepId: string; tones: readonly number[] } | null;
  /** The hue histogram is wanted. */
  hues: boolean;
  /** While a finger is down a ninth of the pixels is enough, and traces of half the size. */
  rough: boolean;
}

export interface ScopeResult {
  main: PaintedTrace | null;
  pad: PaintedTrace | null;
  levels: Levels | null;
  statistics: Statistics;
  marks: MarkColours;
  /** Colour at each hue, the largest 1; null when it was not asked for. */
  hues: Float32Array | null;
  /** Share of the frame in each of the eleven zones. */
  zones: number[];
  readings: Reading[];
  /** It is of what a region chooses alone. */
  within: boolean;
  /** What graded the frame for it. */
  backend: 'kernel' | 'plain';
  /** Heights of the tones that were asked for. */
  heights: number[];
}

export interface ColourReading {
  /** Mean encoded R'G'B', as recorded and as graded. */
  before: [number, number, number];
  after: [number, number, number];
}

/** So many pixels, spread over the frame, are enough to find the light. */
const AUTOMATIC_PIXELS = 60_000;

const CHANNELS = ['red', 'green', 'blue'] as const;
/** Bins of the histogram under the picture. */
const LEVEL_BINS = 244;
/** Encoded luma of a grey card of 18 % (ITU-R BT.709 of 0.18). */
const GREY_CARD = bt709.encode(0.18);

let frame: Frame | undefined;
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

function readingsOf(statistics: Statistics): Reading[] {
  const all = [
    clippingReading(statistics),
    rangeReading(statistics),
    ...castReadings(statistics),
    saturationReading(statistics),
  ];
  return [...all.filter((r) => r.mend), ...all.filter((r) => !r.mend)];
}

/** The pixels of an area in linear light as they enter a step. */
function areaBefore(from: Frame, { steps, seconds }: Moment, stepId: string, area: Area): NeutralSample {
  const before = compileBefore(steps, stepId, seconds);
  const values = pixelPlanes(from, planesFor(from.small, { steps, seconds }));
  return sampleArea(from.code, from.width, from.height, area, (rgb, i) => before(rgb, valuesAt(values, i)), from.ends);
}

/** Steps up to one of them; regions may stand anywhere. */
const upTo = (steps: Step[], index: number): Step[] => steps.filter((s, i) => i <= index || s.kind === REGION);

/** Mean of linear colours. */
function meanOf(linear: Float64Array): Vec3 {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < linear.length; i += 1) sum[i % 3] += linear[i];
  return sum.map((s) => (3 * s) / linear.length) as Vec3;
}

const api = {
  ...bakingApi,

  /** The planes that a grade's ops have: of the frame that everything is measured on, or of another one. */
  async planes(moment: Moment, of?: SmallPicture): Promise<Planes> {
    const small = of ?? frame?.small;
    if (!small) return [];
    await fetchLuts(moment.steps);
    return planesFor(small, moment);
  },

  /** The planes of a grade that has nothing but shapes: they depend on no frame. `aspect`: the frame's width over its height. */
  async masks({ steps, seconds, show }: Moment, aspect: number): Promise<Planes> {
    await fetchLuts(steps);
    return unseenPlanes(compile(steps, seconds, show), aspect);
  },

  /** Steps as a file in an open format. */
  async gradeFile(steps: Step[], request: GradeFileRequest) {
    await fetchLuts(steps);
    return gradeFile(steps, request);
  },

  /** Takes the frame that everything here is measured on; says where its file has lost detail. */
  async setFrame(buffer: ArrayBuffer, format: PlanarFormat, cells?: CellsOfFile): Promise<FileEnds> {
    await gradingReady;
    frame = frameOf(buffer, format, cells);
    return frame.ends;
  },

  /** The cells of the file's own pixels, of the frame that was given last: it may still wait for the kernel. */
  async setCells(cells: CellsOfFile): Promise<void> {
    await gradingReady;
    if (frame) frame.small = smallFrom(cells.code, cells, frame.weights);
  },

  /** Traces, statistics and readings of the frame through a table. */
  async scope(request: ScopeRequest): Promise<ScopeResult | null> {
    if (request.from.planes !== 'as before') scopedPlanes = request.from.planes;
    if (!frame) return null;
    const { main, edges, tones, rough } = request;
    const from: Stamped = { ...request.from, planes: scopedPlanes };
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
      readings: readingsOf(statistics),
      backend: gradingBackend(),
      within,
      heights: tones ? toneHeights(tones.moment.steps, tones.stepId, tones.tones, tones.moment.seconds) : [],
    };
    return transfer(
      result,
      [result.main, result.pad].flatMap((t) => (t ? [t.pixels.buffer] : [])),
    );
  },

  /** Traces of a picture that comes from elsewhere: bytes of red, green, blue and opacity. */
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

  /** Where the marks stand, over every pixel of the frame through a table. */
  marks(from: Stamped, edges: BandEdges): MarkColours | null {
    return frame ? measureMarks(readPixels(frame, from, false).graded, edges) : null;
  },

  /** Pixels that stand for the frame while a mark is dragged on the pad. */
  grabMark(from: Stamped, mark: Mark, edges: BandEdges): PadSample | null {
    if (!frame) return null;
    const { graded, code, planes } = readPixels(frame, from, false);
    return padSample(code, graded, mark, edges, planes());
  },

  /** The colour of a band for which its mark stands where it was let go. */
  solveMark(sample: PadSample, { steps, seconds }: Moment, stepId: string, target: Chroma): PadSolution {
    return solvePad(sample, steps, stepId, target, seconds);
  },

  /** The exposure at which an area of the picture has the luma of a grey card (18 % reflectance). */
  greyCard({ steps, seconds }: Moment, stepId: string, area: Area): Solution | null {
    if (!frame) return null;
    const mean = meanOfArea(frame.code, frame.width, frame.height, area);
    const { width, height } = frame;
    const middle =
      Math.floor((area.y + area.height / 2) * height) * width + Math.floor((area.x + area.width / 2) * width);
    const planes = planesAt(pixelPlanes(frame, planesFor(frame.small, { steps, seconds })), [middle]);
    const sample = { codes: Float64Array.from(mean), quantity: 'luma' as const, planes };
    return solve(sample, steps, stepId, 'exposure', GREY_CARD, seconds);
  },

  /** From an area of the picture to the parameters of a balance step, or a refusal. */
  async pick({ steps, seconds }: Moment, stepId: string, area: Area): Promise<NeutralPick | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    return pickNeutral(areaBefore(frame, { steps, seconds }, stepId, area));
  },

  /** Mean colour of an area as it enters a step, linear, and the step's own map there. */
  async before({ steps, seconds }: Moment, stepId: string, area: Area): Promise<{ colour: Vec3; map: number } | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    const colour = meanOf(areaBefore(frame, { steps, seconds }, stepId, area).linear);
    const index = steps.findIndex((s) => s.id === stepId);
    const moment = { steps: upTo(steps, index), seconds };
    const op = compile(moment.steps, seconds).ops.at(-1);
    const planes = pixelPlanes(frame, planesFor(frame.small, moment));
    const values = op?.kind === 'point' ? planes[op.plane] : undefined;
    if (!values) return { colour, map: 0 };
    const { width, height } = frame;
    let [sum, count] = [0, 0];
    for (let y = Math.floor(area.y * height); y < Math.min(height, (area.y + area.height) * height); y += 1)
      for (let x = Math.floor(area.x * width); x < Math.min(width, (area.x + area.width) * width); x += 1, count += 1)
        sum += values[y * width + x];
    return { colour, map: sum / Math.max(1, count) };
  },

  /**
   * Mean encoded colour of an area as it enters a step, and how far from it 95 % of the area's pixels lie, as mattes
   * measure it.
   */
  async colourBefore(
    { steps, seconds }: Moment,
    stepId: string,
    area: Area,
  ): Promise<{ colour: Vec3; spread: number } | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    const { linear } = areaBefore(frame, { steps, seconds }, stepId, area);
    const encoded = linear.map(bt709.encode);
    const colour = meanOf(encoded);
    const apart = apartOf(likeSchema.shape.light.parse(undefined), colour);
    const all: number[] = [];
    for (let o = 0; o < encoded.length; o += 3) all.push(apart([encoded[o], encoded[o + 1], encoded[o + 2]]));
    all.sort((a, b) => a - b);
    return { colour, spread: all[Math.floor(0.95 * (all.length - 1))] ?? 0 };
  },

  /** The haze in the frame as it enters a step: its airlight, or null where there is none to see. */
  async airlight({ steps, seconds }: Moment, stepId: string): Promise<Vec3 | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    const index = steps.findIndex((s) => s.id === stepId);
    const before = compileBefore(steps, stepId, seconds);
    const { small } = frame;
    const planes = planesFor(small, { steps: upTo(steps, index - 1), seconds }).map((m) => m && smallValues(m, small));
    const read = readFrame(small, (rgb, i) => {
      before(rgb, valuesAt(planes, i));
      for (let c = 0; c < 3; c += 1) rgb[c] = bt709.encode(rgb[c]);
    });
    return readHaze([read])?.airlight ?? null;
  },

  /** Hue (turns) and chroma of an area as it enters a step, encoded. */
  async hueAt({ steps, seconds }: Moment, stepId: string, area: Area): Promise<{ hue: number; chroma: number } | null> {
    if (!frame) return null;
    await fetchLuts(steps);
    const mean = meanOf(areaBefore(frame, { steps, seconds }, stepId, area).linear);
    const [, cb, cr] = rgbToYcbcr(mean.map(bt709.encode) as Vec3, 'bt709');
    return { hue: (Math.atan2(cr, cb) / (2 * Math.PI) + 1) % 1, chroma: Math.hypot(cb, cr) };
  },

  /** What each automatic method makes of the frame as it enters a balance step. */
  async automatic({ steps, seconds }: Moment, stepId: string): Promise<AutomaticBalance[]> {
    if (!frame) return [];
    await fetchLuts(steps);
    const { code, ends } = frame;
    const before = compileBefore(steps, stepId, seconds);
    const values = pixelPlanes(frame, planesFor(frame.small, { steps, seconds }));
    const stride = Math.max(1, Math.floor(code.length / 3 / AUTOMATIC_PIXELS));
    const count = Math.floor(code.length / 3 / stride);
    const sample = { linear: new Float64Array(count * 3), clipped: new Uint8Array(count) };
    const rgb: Vec3 = [0, 0, 0];
    for (let i = 0; i < count; i += 1) {
      const o = i * stride * 3;
      for (let c = 0; c < 3; c += 1) rgb[c] = code[o + c];
      if (Math.max(...rgb) >= ends.high || Math.min(...rgb) <= ends.low) sample.clipped[i] = 1;
      before(rgb, valuesAt(values, i * stride));
      sample.linear.set(rgb, i * 3);
    }
    return automaticBalances(sample);
  },

  /** Mean colour of an area before and after the grade. */
  readColour(from: Stamped, area: Area): ColourReading | null {
    if (!frame) return null;
    const { graded } = gradedPixels(frame, from, false);
    const { width, height, code } = frame;
    return { before: meanOfArea(code, width, height, area), after: meanOfArea(graded, width, height, area) };
  },

  /** The same for many areas. */
  readColours(from: Stamped, areas: Area[]): (ColourReading | null)[] {
    return areas.map((area) => api.readColour(from, area));
  },

  /** The pixels around a grabbed part of the trace. */
  grab(from: Stamped, part: Grab): GrabSample | null {
    if (!frame) return null;
    // Every pixel: at the foot of a cliff in the distribution, a few ranks are many levels.
    const { graded, code, planes } = readPixels(frame, from, false);
    return grabSample(code, graded, part, planes());
  },

  /** The value of a step's number for which a grabbed part lands where it was let go. */
  solve(sample: GrabSample, { steps, seconds }: Moment, stepId: string, key: string, target: number): Solution {
    return solve(sample, steps, stepId, key, target, seconds);
  },
};

export type EngineApi = typeof api;
expose(api);
