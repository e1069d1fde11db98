import type { Mark } from '@inkavo/core/scopes/readings';
import { useBench } from '../state/bench';
import { joined } from '@inkavo/core/model/lists';
import { findStep } from '../state/stepLists';

/** The number that the pad's ring changes for a mark, and its value; its step is created if missing. */
export function rimStep(mark: Mark): { step: string; key: string; from: number } {
  const [kind, key] = mark === 'overall' ? ['saturation', 'amount'] : ['bands', `${mark}Saturation`];
  const { lists, inHand, addStep, take } = useBench.getState();
  const held = findStep(lists, inHand)?.step;
  const step = held?.kind === kind && held.on ? held : joined(lists).find((s) => s.kind === kind && s.on);
  if (!step) addStep(kind);
  else take(step.id);
  const value = step?.params[key];
  return { step: step?.id ?? useBench.getState().inHand!, key, from: typeof value === 'number' ? value : 1 };
}

/** Saturation after dragging the ring to this multiple of its initial radius. */
export const saturationAt = (from: number, times: number): number =>
  Number(Math.min(4, Math.max(0, (from === 0 ? 0.02 : from) * times)).toFixed(3));
