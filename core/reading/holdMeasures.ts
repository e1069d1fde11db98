import type { Vec3 } from '../colour/matrix';
import type { Step } from '../model/grade';
import { Baker } from '../program/baker';
import { compile } from '../program/compile';
import { planesFor, pictureToRgb } from '../program/cpu/gradePicture';
import type { PlanarPicture } from '../program/cpu/planar';
import { MUCH_PRESSED } from '../scopes/readings';
import { measure, type FileEnds, type Statistics } from '../scopes/statistics';
import { median } from './readFrames';

// What a hold check measures in a graded frame, and its limits.

/** A picture of a clip, with its time. It may be small, as long as its pixels are the file's own and not averages. */
export interface HoldFrame {
  picture: PlanarPicture;
  /** Frame of the clip's timeline, and seconds from its first frame. */
  frame: number;
  seconds: number;
}

/** Measurements of a graded frame. Encoded values and shares, 0–1. */
export interface HoldMoment {
  frame: number;
  seconds: number;
  lostInFile: number;
  lostByGrade: number;
  pressed: number;
  black: number;
  white: number;
  /** Mean luma. */
  level: number;
  /** Mean colour of the brightest part, and (red − blue) / green of it. */
  bright: Vec3;
  cast: number;
  /** 95th percentile of chroma, as a share of the vectorscope's radius. */
  chroma: number;
}

export const HOLD_KINDS = ['file', 'grade', 'pressed', 'black', 'white', 'level', 'cast', 'chroma'] as const;
/** Properties that have limits. */
export type HoldKind = (typeof HOLD_KINDS)[number];

/** Maximum share of the frame that may be clipped. */
const LOST = 0.005;
/** A dark end above this, or a bright end below, is dull. */
export const DULL_BLACK = 0.2;
export const DULL_WHITE = 0.6;
/**
 * Maximum drift from the clip's median level, as a share of the range; and from its median highlight cast, (red − blue)
 * / green.
 */
export const LEVEL_DRIFT = 0.08;
export const CAST_DRIFT = 0.1;
const GARISH = 0.85;

const TABLE = 33;

/** Measures graded frames. One instance per grade: tables are baked once. */
export class Measurer {
  private readonly baker = new Baker();
  constructor(
    private readonly steps: readonly Step[],
    private readonly ends: FileEnds,
  ) {}

  measure({ picture, frame, seconds }: HoldFrame): HoldMoment {
    const program = compile(this.steps, seconds);
    const ops = this.baker.bake(this.steps, seconds, TABLE);
    const graded = pictureToRgb({ ops, planes: planesFor(program, picture) }, picture);
    const s = measure(graded, pictureToRgb(undefined, picture), this.ends);
    return {
      frame,
      seconds,
      lostInFile: s.lostInFile,
      lostByGrade: s.lostByGrade,
      pressed: s.pressed,
      black: s.luma.low,
      white: s.luma.high,
      level: levelOf(s),
      bright: brightOf(s),
      cast: castOf(brightOf(s)),
      chroma: s.chroma.high,
    };
  }
}

const levelOf = ({ bands }: Statistics): number =>
  Object.values(bands).reduce((sum, b) => sum + b.share * (0.2126 * b.red + 0.7152 * b.green + 0.0722 * b.blue), 0);

function brightOf({ bands: { highlights, midtones } }: Statistics): Vec3 {
  const { red, green, blue } = highlights.share > 0.01 ? highlights : midtones;
  return [red, green, blue];
}
const castOf = ([red, green, blue]: Vec3): number => (red - blue) / Math.max(0.05, green);

/** Medians over a clip, from which drift is measured. */
export interface Medians {
  level: number;
  cast: number;
}

/** Medians over the clip. */
export const mediansOf = (moments: readonly HoldMoment[]): Medians => ({
  level: median(moments.map((m) => m.level)),
  cast: median(moments.map((m) => m.cast)),
});

/** Excess over a limit; 0 within it. `middle`: medians over the clip. */
export function excessOf(kind: HoldKind, m: HoldMoment, middle: Medians): number {
  switch (kind) {
    case 'file':
      return Math.max(0, m.lostInFile - LOST);
    case 'grade':
      return Math.max(0, m.lostByGrade - LOST);
    case 'pressed':
      return Math.max(0, m.pressed - MUCH_PRESSED);
    case 'black':
      return Math.max(0, m.black - DULL_BLACK);
    case 'white':
      return Math.max(0, DULL_WHITE - m.white);
    case 'level':
      return Math.max(0, Math.abs(m.level - middle.level) - LEVEL_DRIFT);
    case 'cast':
      return Math.max(0, Math.abs(m.cast - middle.cast) - CAST_DRIFT);
    case 'chroma':
      return Math.max(0, m.chroma - GARISH);
  }
}

export const percent = (v: number, digits = 0): string => `${(100 * v).toFixed(digits)} %`.replace('-', '−');

/** Describes an excess in a sentence. */
export function troubleText(kind: HoldKind, m: HoldMoment, middle: Medians): string {
  switch (kind) {
    case 'file':
      return `${percent(m.lostInFile, 1)} of the frame is lost in the file; no step brings it back.`;
    case 'grade':
      return `${percent(m.lostByGrade, 1)} of the frame is lost by the grade.`;
    case 'pressed':
      return `${percent(m.pressed, 1)} of the frame is pressed flat at the ends.`;
    case 'black':
      return `The darkest parts stand at ${percent(m.black)}: black is lifted.`;
    case 'white':
      return `The brightest parts stand at ${percent(m.white)}: white is dull.`;
    case 'level':
      return `Mean luma is ${percent(m.level)}, ${percent(Math.abs(m.level - middle.level))} ${m.level > middle.level ? 'above' : 'below'} the clip's middle.`;
    case 'cast':
      return `Bright parts turn ${m.cast > middle.cast ? 'warmer' : 'cooler'} than in the rest of the clip by ${percent(Math.abs(m.cast - middle.cast))}.`;
    case 'chroma':
      return `Colours reach ${percent(m.chroma)} of the vectorscope's radius: garish.`;
  }
}

/** Describes the effect of a mend on the worst frame in a sentence. */
export function effectText(kind: HoldKind, before: HoldMoment, after: HoldMoment, middle: Medians): string {
  const from = (what: string, of: (m: HoldMoment) => number, digits = 0): string =>
    `${what} ${percent(of(after), digits)} instead of ${percent(of(before), digits)}.`;
  switch (kind) {
    case 'file':
      return from('Lost in the file there:', (m) => m.lostInFile, 1);
    case 'grade':
      return from('Lost by the grade there:', (m) => m.lostByGrade, 1);
    case 'pressed':
      return from('Pressed flat there:', (m) => m.pressed, 1);
    case 'black':
      return from('Darkest parts there:', (m) => m.black);
    case 'white':
      return from('Brightest parts there:', (m) => m.white);
    case 'level':
      return from('Mean luma there:', (m) => m.level);
    case 'cast':
      return `Bright parts there: ${percent(Math.abs(after.cast - middle.cast))} from the rest of the clip instead of ${percent(Math.abs(before.cast - middle.cast))}.`;
    case 'chroma':
      return `Colours there: ${percent(after.chroma)} of the radius instead of ${percent(before.chroma)}.`;
  }
}
