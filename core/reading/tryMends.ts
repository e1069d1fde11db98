import type { Step } from '../model/grade';
import type { FileEnds } from '../scopes/statistics';
import {
  excessOf,
  effectText,
  CAST_DRIFT,
  Measurer,
  mediansOf,
  type HoldFrame,
  type HoldKind,
  type HoldMoment,
} from './holdMeasures';
import { castMend, dullMend, levelMend, softerEnds, weakerMends, WORTH, type Change, type Own } from './holdMends';

/** A change of the steps that mends a trouble, with measurements. */
export interface HoldMend {
  kind: HoldKind;
  title: string;
  text: string;
  /** The frame on which it was tried: the worst one. */
  frame: number;
  /** The steps with the change. */
  steps: Step[];
}

/** Troubles caused by too strong a step. */
const TOO_STRONG = ['grade', 'pressed', 'chroma'] as const;
/** Ends that can be dull. */
const DULL = ['black', 'white'] as const;
/** Shares of a full mend, tried in turn until one makes nothing else worse. */
const SHARES = [1, 0.75, 0.5];

/** Tolerated deterioration of other properties, in the units of each kind. */
const AS_GOOD = 0.002;
/** Maximum number of frames for checking a mend's side effects. */
const TRIED = 4;

/** Properties of single frames; level and cast are relative to the clip's median, which a mend changes. */
const OF_A_FRAME: readonly HoldKind[] = ['file', 'grade', 'pressed', 'black', 'white', 'chroma'];

/** Whether a mend makes any other property worse, on frames that are already measured with the current grade. */
function worsens(kind: HoldKind, before: readonly HoldMoment[], after: readonly HoldMoment[]): boolean {
  const none = { level: 0, cast: 0 };
  return OF_A_FRAME.some(
    (other) =>
      other !== kind && before.some((m, i) => excessOf(other, after[i], none) > excessOf(other, m, none) + AS_GOOD),
  );
}

/** The frame with the largest excess. */
interface Worst {
  at: HoldFrame;
  before: HoldMoment;
}

/** A graded clip on which changes of the steps are tried. */
class Trials {
  readonly middle;
  /** Moments for checking a mend's side effects. */
  private readonly tried: HoldMoment[];
  private last?: { steps: readonly Step[]; measurer: Measurer };

  constructor(
    private readonly frames: readonly HoldFrame[],
    readonly moments: readonly HoldMoment[],
    private readonly ends: FileEnds,
  ) {
    this.middle = mediansOf(moments);
    // The darkest, the brightest and the most colourful moments.
    const extremes = (['level', 'white', 'chroma'] as const).map((key) =>
      moments.reduce((a, b) => (b[key] > a[key] ? b : a)),
    );
    const darkest = moments.reduce((a, b) => (b.level < a.level ? b : a));
    this.tried = [...new Set([darkest, ...extremes])].slice(0, TRIED);
  }

  /** The largest excess over the clip; undefined if everything is within limits. */
  worst(kind: HoldKind): Worst | null {
    const off = this.moments.map((m) => this.excess(kind, m));
    const most = Math.max(...off);
    const at = off.indexOf(most);
    return most > 0 ? { at: this.frames[at], before: this.moments[at] } : null;
  }

  excess(kind: HoldKind, moment: HoldMoment): number {
    return excessOf(kind, moment, this.middle);
  }

  measure(steps: readonly Step[], at: HoldFrame): HoldMoment {
    // Steps are tried on one frame after another: their tables are baked once.
    if (this.last?.steps !== steps) this.last = { steps, measurer: new Measurer(steps, this.ends) };
    return this.last.measurer.measure(at);
  }

  /** Whether steps make no other property worse. */
  harmless(kinds: readonly HoldKind[], steps: readonly Step[]): boolean {
    const after = this.tried.map((m) =>
      this.measure(
        steps,
        this.frames.find((f) => f.frame === m.frame)!,
      ),
    );
    return kinds.every((kind) => !worsens(kind, this.tried, after));
  }

  /** A change with its effect on the worst frame. */
  mend(kind: HoldKind, { at, before }: Worst, change: Change): HoldMend {
    const text = effectText(kind, before, this.measure(change.steps, at), this.middle);
    return { ...change, kind, frame: at.frame, text };
  }
}

/** Softer ends, or weaker steps, where something is too strong. */
function weakened(trials: Trials, kind: (typeof TOO_STRONG)[number], steps: readonly Step[], own: Own): HoldMend[] {
  const found = trials.worst(kind);
  if (!found) return [];
  const { at, before } = found;
  const excess = (mended: readonly Step[]): number => trials.excess(kind, trials.measure(mended, at));
  const mends: HoldMend[] = [];
  let [from, first] = [steps, ''];
  if (kind === 'grade') {
    const softer = softerEnds(steps, own);
    if (trials.measure(softer, at).lostByGrade < before.lostByGrade * WORTH && trials.harmless([kind], softer)) {
      mends.push(trials.mend(kind, found, { title: 'Softer ends', steps: softer }));
      // If insufficient alone, it still reduces the rest.
      if (excess(softer) > 0) [from, first] = [softer, 'Softer ends and '];
    }
  }
  const weaker = weakerMends(from, own, excess).find((m) => trials.harmless([kind], m.steps));
  return weaker ? [...mends, trials.mend(kind, found, { ...weaker, title: `${first}${weaker.title}` })] : mends;
}

/**
 * A change that reaches the limit, or the largest share of it without side effects, provided it helps with all given
 * kinds that exceed their limits.
 */
function shared(trials: Trials, kinds: readonly HoldKind[], change: (share: number) => Change): HoldMend[] {
  const found = kinds.flatMap((kind) => {
    const worst = trials.worst(kind);
    return worst ? [{ kind, worst }] : [];
  });
  if (found.length === 0) return [];
  for (const share of SHARES) {
    const mend = change(share);
    const helps = found.every(({ kind, worst: { at, before } }) => {
      const after = trials.excess(kind, trials.measure(mend.steps, at));
      return after <= WORTH * trials.excess(kind, before);
    });
    if (!helps) return [];
    const of = found.map(({ kind }) => kind);
    if (!trials.harmless(of, mend.steps)) continue;
    const all = found.map(({ kind, worst }) => trials.mend(kind, worst, mend));
    return [{ ...all[0], text: all.map((m) => m.text).join(' ') }];
  }
  return [];
}

/**
 * Mends for what exceeds the limits in a clip's graded moments: each was tried on the worst frame and has no side
 * effects. `ends`: code values at which the file is clipped. `own` tells which steps may be changed.
 */
export function mendsFor(
  frames: readonly HoldFrame[],
  moments: readonly HoldMoment[],
  ends: FileEnds,
  steps: readonly Step[],
  own: Own,
): HoldMend[] {
  const trials = new Trials(frames, moments, ends);
  return [
    ...TOO_STRONG.flatMap((kind) => weakened(trials, kind, steps, own)),
    ...shared(trials, DULL, (share) => dullMend(steps, moments, share)),
    ...shared(trials, ['level'], (share) => levelMend(steps, moments, own, share)),
    ...shared(trials, ['cast'], (share) => castMend(steps, moments, CAST_DRIFT, share)),
  ];
}
