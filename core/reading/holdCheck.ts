import type { Vec3 } from '../colour/matrix';
import { fileEnds, measure, type FileEnds, type Statistics } from '../scopes/statistics';
import type { Step } from '../model/grade';
import type { PlanarPicture } from '../program/cpu/planar';
import { Baker } from '../program/baker';
import { compile } from '../program/compile';
import { planesFor, pictureToRgb } from '../program/cpu/gradePicture';
import { MUCH_PRESSED } from '../scopes/readings';
import {
  becomes,
  castMend,
  LEVEL_DRIFT,
  levelMend,
  percent,
  softerEnds,
  TOO_STRONG,
  weakerMends,
  WORTH,
  type Change,
  type Own,
} from './holdMends';
import { percentile, median } from './readFrames';

/** A picture of a clip, and where. Small ones do, as long as their pixels are the file's own, not averages. */
export interface HeldFrame {
  picture: PlanarPicture;
  /** Frame of the clip's timeline, and seconds from its first frame. */
  frame: number;
  seconds: number;
}

/** So many frames, spread over a clip, tell whether its grade holds. */
export const HOLD_FRAMES = 48;

/** What a graded frame comes to. Encoded values and shares, 0–1. */
export interface HeldMoment {
  frame: number;
  seconds: number;
  lostInFile: number;
  lostByGrade: number;
  pressed: number;
  black: number;
  white: number;
  /** Mean luma. */
  level: number;
  /** Mean colour of the brightest part, and red less blue over green of it. */
  bright: Vec3;
  cast: number;
  /** 95th percentile of chroma, as a share of the vectorscope's radius. */
  chroma: number;
}

export const HELD = ['file', 'grade', 'pressed', 'black', 'white', 'level', 'cast', 'chroma'] as const;
/** What can leave its limits. */
export type HeldKind = (typeof HELD)[number];

/** A stretch of the clip where something leaves its limits, with its worst frame and a sentence. */
export interface HeldTrouble {
  kind: HeldKind;
  fromFrame: number;
  toFrame: number;
  worstFrame: number;
  text: string;
}

/** A change of the steps that would mend a trouble, and what was measured with it. */
export interface HeldMend {
  kind: HeldKind;
  title: string;
  text: string;
  /** The frame at which it was tried: where the trouble is worst. */
  frame: number;
  /** The steps with the change. */
  steps: Step[];
}

export interface HoldReport {
  moments: HeldMoment[];
  troubles: HeldTrouble[];
  mends: HeldMend[];
}

/** Shares of the frame that may be lost. */
const LOST = 0.005;
/** A dark end above this, or a bright end below, is dull; only drift of the middle beyond this share counts. */
const DULL_BLACK = 0.2;
const DULL_WHITE = 0.6;
const CAST_DRIFT = 0.1;
/** Shares of the way to where drift is borne, tried in turn until one makes nothing else worse. */
const FOLLOWED = [1, 0.75, 0.5];
const GARISH = 0.85;

const TABLE = 33;

/** Measures graded frames. One of these for one grade: tables are baked once. */
class Measurer {
  private readonly baker = new Baker();
  constructor(
    private readonly steps: readonly Step[],
    private readonly ends: FileEnds,
  ) {}

  measure({ picture, frame, seconds }: HeldFrame): HeldMoment {
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

/** How far a moment is beyond a limit; 0 inside. `middle`: medians over the clip. */
function beyond(kind: HeldKind, m: HeldMoment, middle: { level: number; cast: number }): number {
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

function sentence(kind: HeldKind, m: HeldMoment, middle: { level: number; cast: number }): string {
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

/** Medians over the clip. */
const middleOf = (moments: readonly HeldMoment[]): { level: number; cast: number } => ({
  level: median(moments.map((m) => m.level)),
  cast: median(moments.map((m) => m.cast)),
});

function troublesOf(moments: readonly HeldMoment[]): HeldTrouble[] {
  const middle = middleOf(moments);
  return HELD.flatMap((kind) => {
    const found: HeldTrouble[] = [];
    let run: HeldMoment[] = [];
    const close = (): void => {
      if (run.length === 0) return;
      const worst = run.reduce((a, b) => (beyond(kind, b, middle) > beyond(kind, a, middle) ? b : a));
      found.push({
        kind,
        fromFrame: run[0].frame,
        toFrame: run[run.length - 1].frame,
        worstFrame: worst.frame,
        text: sentence(kind, worst, middle),
      });
      run = [];
    };
    for (const m of moments) {
      if (beyond(kind, m, middle) > 0) run.push(m);
      else close();
    }
    close();
    return found;
  });
}

/** What else may become worse by a mend, in the units of each kind. */
const AS_GOOD = 0.002;
/** Frames on which a mend is tried for what else it does, at most. */
const TRIED = 4;

/** What each frame has by itself; level and cast are measured against the clip's middle, which a mend moves. */
const OF_A_FRAME: readonly HeldKind[] = ['file', 'grade', 'pressed', 'black', 'white', 'chroma'];

/** Whether a mend makes anything but its own kind worse, on frames where the grade is measured already. */
function worsens(kind: HeldKind, before: readonly HeldMoment[], after: readonly HeldMoment[]): boolean {
  const none = { level: 0, cast: 0 };
  return OF_A_FRAME.some(
    (other) =>
      other !== kind && before.some((m, i) => beyond(other, after[i], none) > beyond(other, m, none) + AS_GOOD),
  );
}

/**
 * Whether a grade holds over a clip: every frame given is measured, graded; where something leaves its limits is a
 * trouble, and what would mend it is tried out on the worst frame. `own` says which steps may be changed. `onProgress`
 * is called with the number of frames done.
 */
export function holdCheck(
  frames: readonly HeldFrame[],
  steps: readonly Step[],
  own: Own = () => true,
  onProgress?: (done: number) => void,
): HoldReport {
  const ends = clipEnds(frames);
  const measurer = new Measurer(steps, ends);
  const moments = frames.map((f, i) => {
    const moment = measurer.measure(f);
    onProgress?.(i + 1);
    return moment;
  });
  const troubles = troublesOf(moments);
  const mends: HeldMend[] = [];
  const middle = middleOf(moments);
  /** Where something is furthest beyond its limit, of all stretches. */
  const worst = (kind: HeldKind): { at: HeldFrame; before: HeldMoment } | null => {
    const off = moments.map((m) => beyond(kind, m, middle));
    const most = Math.max(...off);
    return most > 0 ? { at: frames[off.indexOf(most)], before: moments[off.indexOf(most)] } : null;
  };
  // The lightest, the darkest and the most colourful moment, besides the worst one.
  const extremes = (['level', 'white', 'chroma'] as const).map((key) =>
    moments.reduce((a, b) => (b[key] > a[key] ? b : a)),
  );
  const darkest = moments.reduce((a, b) => (b.level < a.level ? b : a));
  const tried = [...new Set([darkest, ...extremes])].slice(0, TRIED);
  const harmless = (kind: HeldKind, mended: readonly Step[]): boolean => {
    const measurer = new Measurer(mended, ends);
    const after = tried.map((m) => measurer.measure(frames.find((f) => f.frame === m.frame)!));
    return !worsens(kind, tried, after);
  };
  for (const kind of TOO_STRONG) {
    const found = worst(kind);
    if (!found) continue;
    const { at, before } = found;
    const measured = (mended: readonly Step[]): HeldMoment => new Measurer(mended, ends).measure(at);
    const offer = (mend: Change): void => {
      mends.push({ ...mend, kind, frame: at.frame, text: becomes(kind, before, measured(mend.steps)) });
    };
    const excess = (mended: readonly Step[]): number => beyond(kind, measured(mended), middle);
    let [from, first] = [steps, ''];
    if (kind === 'grade') {
      const softer = softerEnds(steps, own);
      if (measured(softer).lostByGrade < before.lostByGrade * WORTH && harmless(kind, softer)) {
        offer({ title: 'Softer ends', steps: softer });
        // Not enough by itself, it leaves more of the rest.
        if (excess(softer) > 0) [from, first] = [softer, 'Softer ends and '];
      }
    }
    const weaker = weakerMends(from, own, excess).find((m) => harmless(kind, m.steps));
    if (weaker) offer({ ...weaker, title: `${first}${weaker.title}` });
  }
  /** Offers what follows the clip by keyframes, where it mends and harms nothing else. */
  const follow = (
    kind: 'level' | 'cast',
    change: (share: number) => Change,
    text: (before: HeldMoment, after: HeldMoment) => string,
  ) => {
    const found = worst(kind);
    if (!found) return;
    const { at, before } = found;
    for (const share of FOLLOWED) {
      const mend = change(share);
      const after = new Measurer(mend.steps, ends).measure(at);
      if (beyond(kind, after, middle) > WORTH * beyond(kind, before, middle)) return;
      if (!harmless(kind, mend.steps)) continue;
      mends.push({ ...mend, kind, frame: at.frame, text: text(before, after) });
      return;
    }
  };
  follow(
    'level',
    (share) => levelMend(steps, moments, own, share),
    (before, after) => `Mean luma there: ${percent(after.level)} instead of ${percent(before.level)}.`,
  );
  follow(
    'cast',
    (share) => castMend(steps, moments, CAST_DRIFT, share),
    (before, after) => {
      const off = (m: HeldMoment): string => percent(Math.abs(m.cast - middle.cast));
      return `Bright parts there: ${off(after)} from the rest of the clip instead of ${off(before)}.`;
    },
  );
  return { moments, troubles, mends };
}

/** Where the file has lost detail, over the whole clip: the ends that most frames agree on. */
function clipEnds(frames: readonly HeldFrame[]): FileEnds {
  const ends = frames.map((f) => fileEnds(pictureToRgb(undefined, f.picture)));
  const of = (values: number[], none: number): number => {
    const found = values.filter((v) => Number.isFinite(v));
    return found.length === 0 ? none : percentile(found, 0.5);
  };
  return {
    low: of(
      ends.map((e) => e.low),
      -Infinity,
    ),
    high: of(
      ends.map((e) => e.high),
      Infinity,
    ),
  };
}
