import { isUnflattened, keepsOpenWater } from '@inkavo/core/scopes/readings';
import { LEVEL_CENTRES } from '@inkavo/core/steps/shared/tone';
import { shownLists, useBench } from '../state/bench';
import { findStep } from '../state/stepLists';
import { currentEdges } from './grabber';
import { KeptTraces } from './keptTraces';
import { coalesce } from './coalesce';
import type { Moment, Stamped } from './worker/frame';
import type { ScopeRequest, ScopeResult } from './worker/scopes';
import { engine, toMeasure } from './workers';

/** Sizes of the traces in pixels; no pad: 0. */
export interface ScopeSize {
  columns: number;
  rows: number;
  pad: number;
}

/** The step in hand, as it is shown. */
function stepInHand() {
  const state = useBench.getState();
  return findStep(shownLists(state), state.inHand)?.step;
}

/** Levels of a range step in hand, or the edges of a bands step: parts with handles on the waveform. */
function tones(moment: Moment): ScopeRequest['tones'] {
  const step = stepInHand();
  if (!step?.on) return null;
  const of = (list: readonly number[]) => ({ moment, stepId: step.id, tones: list });
  if (step.kind === 'range') return of(LEVEL_CENTRES);
  const { low, high } = currentEdges();
  return step.kind === 'bands' ? of([low, high]) : null;
}

type Asked = ScopeRequest & { from: Stamped };

/** Measures the graded frame, latest request only, and stores the results in the bench's state. */
export class Measuring {
  /** Key of the last measurement: grade version and size of the tables. */
  last: { scope: ScopeResult; change: number; size: number } | undefined;
  private closed = false;
  private readonly keptTraces = new KeptTraces();
  /** Planes that the worker already has. */
  private sent: Stamped['planes'] | undefined;

  ask(from: Stamped, moment: Moment, { columns, rows, pad }: ScopeSize, rough: boolean, change: number): void {
    const { scopeView, padZoom } = useBench.getState();
    this.keptTraces.resize({ columns, rows, pad });
    this.measure(
      {
        from,
        main: scopeView === 'pad' ? null : scopeView,
        columns,
        rows,
        pad: pad > 0 ? { size: pad, zoom: padZoom } : null,
        edges: currentEdges(),
        tones: tones(moment),
        unflattened: isUnflattened(moment.steps),
        openWater: keepsOpenWater(moment.steps),
        hues: stepInHand()?.kind === 'hues',
        rough,
      },
      change,
    );
  }

  private readonly measure = coalesce(async ({ from, ...request }: Asked, change: number) => {
    const planes = from.planes === this.sent ? 'as before' : from.planes;
    this.sent = from.planes;
    const scope = await engine().scopes.scope({ ...request, from: { ...toMeasure(from), planes } });
    if (this.closed || !scope) return;
    this.last = { scope, change, size: from.size };
    useBench.getState().set({ scope });
  });

  close(): void {
    this.closed = true;
    this.keptTraces.close();
  }
}
