import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ciede2000 } from '@inkavo/core/colour/difference';
import type { Vec3 } from '@inkavo/core/colour/matrix';
import { bt709 } from '@inkavo/core/colour/transfer';
import { LUMA } from '@inkavo/core/colour/ycbcr';
import { encodedToLab } from '@inkavo/core/colour/lab';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { newStep, type Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { evaluate } from '@inkavo/core/program/evaluate';
import { bakeFor, pictureToRgb } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { planesOf, planeValues } from '@inkavo/core/program/planes';
import type { ClipClass } from '@inkavo/core/reading/estimate';
import { firstPass, type ClipFrame, type FirstPass } from '@inkavo/core/reading/firstPass';
import { noiseIn, noiseOf } from '@inkavo/core/reading/noise';
import type { Setting } from '@inkavo/core/reading/settings';
import { asSteps } from '@inkavo/core/reading/stepsOf';
import { meanOfArea } from '@inkavo/core/scopes/sampleArea';
import { neutralise } from '@inkavo/core/steps/balance/pick';
import { fitNeutral } from '@inkavo/core/steps/water/pick';
import type { WaterParams } from '@inkavo/core/steps/water';
import { makeCase, type CaseKind, type CaseRequest, type KnownCase } from './cases';
import { PLAIN_METHODS } from './plain';
import { score, type Score } from './score';
import { worstSeam } from './seams';
import { KNOWN_HEIGHT as H, KNOWN_WIDTH as W } from './surfaces';

/** Measurements of one known case. */
export interface Measured {
  name: string;
  kind: CaseKind;
  part: string;
  seed: number;
  /** Its class as found without and with the setting given. */
  found: ClipClass;
  foundAsked: ClipClass;
  steps: string[];
  untouched: Score;
  plain: Record<string, Score>;
  /** Scores without the setting, with it, and with a pick of the slate in addition; null without a slate. */
  alone: Score;
  asked: Score;
  picked: Score | null;
  /** a* and b* of the slate after the pick. */
  slate: [number, number] | null;
  /** Share of clipped whites after the first pass, less the truth's share. */
  clipped: number;
  /** Noise of red after, relative to green's before, in a flat area. */
  redNoise: number;
  /** Largest gradient of the correction relative to the picture's own, see `seams.ts`. */
  seam: number;
}

/** The setting for each kind of case. */
const ANSWERS: Record<CaseKind, Setting> = {
  water: 'water',
  haze: 'haze',
  mixed: 'haze',
  flat: 'air',
  white: 'air',
  good: 'air',
  tinted: 'air',
};

/** Stride of the scored pixels; not a divisor of the width, so that all columns are included. */
export const STRIDE = 13;
/** Applies steps exactly, including planes, at the scored pixels. */
export function through(c: KnownCase, steps: Step[], raw: Float32Array): Float32Array {
  const program = compile(steps, 0);
  const planes = planesOf(program, downsample(c.frames[0])).map((m) => m && planeValues(m, raw, W, H, LUMA.bt709));
  const out = raw.slice();
  for (let i = 0; i < W * H; i += STRIDE)
    out.set(
      evaluate(
        program,
        [raw[3 * i], raw[3 * i + 1], raw[3 * i + 2]],
        false,
        planes.map((m) => m?.[i] ?? 0),
      ),
      3 * i,
    );
  return out;
}

const rendered = ({ frames: [picture] }: KnownCase, steps: Step[]): Float32Array =>
  pictureToRgb(bakeFor(compile(steps, 0), picture, 33), picture);

/** Simulates a user: first pass and a tap on the slate, which fits the water, or balances. */
function withPick(c: KnownCase, steps: Step[], raw: Float32Array): Step[] {
  const linear = raw.map((v) => bt709.decode(v));
  const slate = meanOfArea(linear, W, H, inner(c));
  const step = steps.find((s) => s.kind === 'water');
  if (step) {
    const fit = fitNeutral(step.params as WaterParams, slate, 0);
    return fit ? steps.map((s) => (s === step ? { ...s, params: { ...s.params, ...fit } } : s)) : steps;
  }
  return [newStep('balance', 'pick', neutralise(slate).params), ...steps.filter((s) => s.kind !== 'balance')];
}

/** The slate without its border. */
const inner = ({ slate }: KnownCase) => ({
  x: slate!.x + 0.2 * slate!.width,
  y: slate!.y + 0.2 * slate!.height,
  width: 0.6 * slate!.width,
  height: 0.6 * slate!.height,
});

function slateAfter(c: KnownCase, steps: Step[], raw: Float32Array): [number, number] {
  const code = meanOfArea(raw, W, H, inner(c));
  const [, a, b] = encodedToLab(evaluate(compile(steps, 0), code, false, []) as Vec3);
  return [a, b];
}

const beyondWhite = (encoded: Float32Array): number => {
  let [over, count] = [0, 0];
  for (let i = 0; i < W * H; i += STRIDE, count += 1)
    if (Math.max(encoded[3 * i], encoded[3 * i + 1], encoded[3 * i + 2]) > 1.0023) over += 1;
  return over / count;
};

/** Encodes and decodes the frames of a case at a camera's bitrate. */
export function throughCodec(
  frames: readonly PlanarPicture[],
  codec: 'libx264' | 'libx265',
  bits: number,
): PlanarPicture[] {
  const { format } = frames[0];
  const folder = mkdtempSync(join(tmpdir(), 'known-'));
  try {
    const pixels = format.depth === 8 ? 'yuv420p' : 'yuv420p10le';
    const planes = frames.map((f) =>
      Buffer.concat([f.y, f.cb, f.cr].map((p) => Buffer.from(p.buffer, p.byteOffset, p.byteLength))),
    );
    writeFileSync(join(folder, 'raw'), Buffer.concat(planes));
    const size = `${format.width}x${format.height}`;
    const quiet = ['-v', 'error', '-y'];
    const raw = ['-f', 'rawvideo', '-pix_fmt', pixels, '-s', size, '-r', '30'];
    const rate = String(Math.round(bits * format.width * format.height * 30));
    const more = codec === 'libx265' ? ['-x265-params', 'log-level=none'] : [];
    execFileSync('ffmpeg', [
      ...quiet,
      ...raw,
      '-i',
      join(folder, 'raw'),
      '-c:v',
      codec,
      '-b:v',
      rate,
      ...more,
      '-pix_fmt',
      pixels,
      join(folder, 'clip.mp4'),
    ]);
    execFileSync('ffmpeg', [
      ...quiet,
      '-i',
      join(folder, 'clip.mp4'),
      '-f',
      'rawvideo',
      '-pix_fmt',
      pixels,
      join(folder, 'back'),
    ]);
    const back = new Uint8Array(readFileSync(join(folder, 'back'))).buffer;
    const bytes = pictureBytes(format);
    return frames.map((_, i) => planesOver(back.slice(i * bytes, (i + 1) * bytes), format));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Frames as a first pass reads them. */
export const reading = (frames: readonly PlanarPicture[]): ClipFrame[] =>
  frames.map((picture, i) => ({ small: downsample(picture), seconds: i, noise: noiseOf(picture) }));

/** A case with encoded frames. */
export function encodedCase(request: CaseRequest): KnownCase {
  const c = makeCase(request);
  const bits = 0.12 + 0.2 * ((request.seed * 0.37) % 1);
  c.frames = throughCodec(c.frames, request.seed % 3 === 0 ? 'libx265' : 'libx264', bits);
  return c;
}

/**
 * Mean CIEDE2000 to the truth of objects and of open water in a case: as proposed by the first pass, and without
 * keeping open water.
 */
export interface OpenWaterScores {
  offered: { things: number; water: number };
  without: { things: number; water: number };
}

/** Measures a case with open water, known to be under water. */
export function measureOpenWater(request: Omit<CaseRequest, 'kind' | 'open'>): OpenWaterScores {
  const c = encodedCase({ ...request, kind: 'water', open: true });
  const raw = pictureToRgb(undefined, c.frames[0]);
  const known = { depth: 8, transfer: null, setting: 'water' } as const;
  const steps = asSteps(firstPass(reading(c.frames), [], known, { others: false }).explanations[0].proposals);
  const none = steps.map((s) => (s.kind === 'water' ? { ...s, params: { ...s.params, keepWater: 0 } } : s));
  const truth = c.truth();
  const labAt = (picture: Float32Array, i: number): Vec3 =>
    encodedToLab([0, 1, 2].map((k) => Math.min(1, Math.max(0, picture[3 * i + k]))) as Vec3);
  const scores = (list: Step[]): { things: number; water: number } => {
    const out = through(c, list, raw);
    const mean = (is: (share: number) => boolean): number => {
      let [sum, count] = [0, 0];
      for (let i = 0; i < W * H; i += STRIDE) {
        if (!is(c.open![i])) continue;
        sum += ciede2000(labAt(out, i), labAt(truth, i));
        count += 1;
      }
      return sum / Math.max(1, count);
    };
    return { things: mean((share) => share < 0.1), water: mean((share) => share > 0.9) };
  };
  return { offered: scores(steps), without: scores(none) };
}

/** Runs the first pass on a case and measures it against the truth, beside plain methods. */
export function measureCase(request: CaseRequest): Measured {
  const c = encodedCase(request);
  const raw = pictureToRgb(undefined, c.frames[0]);
  const frames = reading(c.frames);
  const pass = (setting?: Setting): FirstPass =>
    firstPass(frames, [], { depth: c.frames[0].format.depth, transfer: null, setting }, { others: false });
  const alone = pass();
  const asked = pass(ANSWERS[c.kind]);
  const stepsOf = (p: FirstPass): Step[] => asSteps(p.explanations[0].proposals);
  const own = stepsOf(alone);
  const out = through(c, own, raw);
  const scored = (picture: Float32Array): Score => score(picture, c.truth(), STRIDE);
  const pickedSteps = c.slate ? withPick(c, stepsOf(asked), raw) : null;
  const whole = rendered(c, own);
  // A spatial step is compared with its input: earlier conversions are the same everywhere.
  const isSpatial = (s: Step): boolean => s.kind === 'water' || s.kind === 'haze';
  const first = own.findIndex(isSpatial);
  const entering = own.slice(0, Math.max(0, first));
  const before = noiseOf(c.frames[0]);
  const after = noiseOf(undefined, { encoded: whole, guide: raw, width: W, height: H });
  return {
    name: c.name,
    kind: c.kind,
    part: c.part,
    seed: c.seed,
    found: alone.explanations[0].found,
    foundAsked: asked.explanations[0].found,
    steps: own.map((s) => s.kind),
    untouched: scored(raw),
    plain: Object.fromEntries(Object.entries(PLAIN_METHODS).map(([n, f]) => [n, scored(f(raw, W, H))])),
    alone: scored(out),
    asked: scored(through(c, stepsOf(asked), raw)),
    picked: pickedSteps && scored(through(c, pickedSteps, raw)),
    slate: pickedSteps && slateAfter(c, pickedSteps, raw),
    clipped: beyondWhite(out) - beyondWhite(c.truth()),
    redNoise: noiseIn(after, 0) / Math.max(1e-5, noiseIn(before, 1)),
    seam: first < 0 ? 0 : worstSeam(rendered(c, entering), rendered(c, [...entering, ...own.filter(isSpatial)]), W, H),
  };
}
