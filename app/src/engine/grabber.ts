import { bandEdgesOf, type BandEdges } from '@inkavo/core/steps/bands/weights';
import { GRABS, type Grab } from '@inkavo/core/scopes/solver';
import type { Mark } from '@inkavo/core/scopes/readings';
import type { Chroma } from '@inkavo/core/scopes/vectorscope';
import { useBench } from '../state/bench';
import { useHints } from '../state/hints';
import { joined } from '@inkavo/core/model/lists';
import { findStep } from '../state/stepLists';
import { coalesce } from './coalesce';
import type { Moment, Stamped } from './worker/frame';
import { engine, toMeasure } from './workers';

/** A part of a trace being dragged: how the step's numbers follow its position. */
interface Held<Target> {
  stepId: string;
  solve(target: Target): Promise<Record<string, unknown>>;
  /** Called on release with the final position, to remove the remaining error. */
  refine?(target: Target): Promise<Record<string, unknown> | undefined>;
}

export interface GrabberParts {
  canvas: HTMLCanvasElement;
  /** The table that is currently drawn. */
  shown(): Stamped;
  moment(): Moment;
}

const QUICK = 33;
/** The stamp of a table that is used once. */
const NEVER = -1;
/** Tolerance, in Cb and Cr, of a mark's final position. */
const CLOSE = 0.0008;

/** The step of a kind that a grab changes: the one in hand, or the first that is on; a new one if there is none. */
function stepOf(kind: string): string {
  const { lists, inHand, take, addStep } = useBench.getState();
  const held = findStep(lists, inHand)?.step;
  const step = held?.kind === kind && held.on ? held : joined(lists).find((s) => s.kind === kind && s.on);
  if (!step) addStep(kind);
  else if (step.id !== inHand) take(step.id);
  return step?.id ?? useBench.getState().inHand!;
}

/** The band edges of the step that the pad changes, or the default ones. */
export function currentEdges(): BandEdges {
  const { lists, live, inHand } = useBench.getState();
  const shown = live ?? lists;
  const held = findStep(shown, inHand)?.step;
  const step = held?.kind === 'bands' ? held : joined(shown).find((s) => s.kind === 'bands' && s.on);
  return bandEdgesOf(step?.params ?? {});
}

/** Grabs and drags parts of the traces: the grabbed part ends up where it is released, after all later steps. */
export class Grabber {
  private held: Promise<Held<never> | undefined> | undefined;
  private last: unknown;

  constructor(private readonly parts: GrabberParts) {}

  /** Grabs a part of a waveform. */
  take(grab: Grab): void {
    useHints.getState().finish('trace');
    this.hold(grab, async () => {
      const { kind, key } = GRABS[grab];
      const stepId = stepOf(kind);
      const sample = await engine().scopes.grab(toMeasure(this.parts.shown()), grab);
      if (!sample) return undefined;
      const solve = async (target: number) => {
        const { value } = await engine().tables.solve(sample, this.parts.moment(), stepId, key, target);
        return { [key]: value };
      };
      return { stepId, solve };
    });
  }

  /** Grabs a mark on the pad. */
  takeMark(mark: Mark): void {
    useHints.getState().finish('trace');
    this.hold(mark, async () => {
      const stepId = stepOf('bands');
      const edges = currentEdges();
      const sample = await engine().scopes.grabMark(toMeasure(this.parts.shown()), mark, edges);
      if (!sample) return undefined;
      const solve = async (target: Chroma) =>
        (await engine().tables.solveMark(sample, this.parts.moment(), stepId, target)).params;
      const refine = async (target: Chroma) => {
        const ops = await engine().tables.bake(this.parts.moment(), QUICK);
        const through = toMeasure({ ...this.parts.shown(), ops, stamp: NEVER, size: QUICK });
        const now = (await engine().scopes.marks(through, edges))?.[mark];
        if (!now || Math.hypot(now.cb - target.cb, now.cr - target.cr) < CLOSE) return undefined;
        return solve({ cb: 2 * target.cb - now.cb, cr: 2 * target.cr - now.cr });
      };
      return { stepId, solve, refine };
    });
  }

  private hold<T>(what: string, take: () => Promise<Held<T> | undefined>): void {
    this.parts.canvas.dataset.held = what;
    this.last = undefined;
    this.held = take() as Promise<Held<never> | undefined>;
  }

  /** Moves the grabbed part to an encoded level, or to a colour. */
  readonly moveTo = coalesce(async (target: number | Chroma) => {
    const held = await this.held;
    if (!held) return;
    this.last = target;
    useBench.getState().setParams(held.stepId, await held.solve(target as never), true);
  });

  /** Releases: the result counts as one change. */
  async letGo(): Promise<void> {
    await this.moveTo.settled();
    const held = await this.held;
    const better = this.last === undefined ? undefined : await held?.refine?.(this.last as never);
    if (held && better) useBench.getState().setParams(held.stepId, better, true);
    this.held = undefined;
    useBench.getState().settle();
    this.parts.canvas.dataset.held = '';
  }
}
