import type { ServerEvent } from '@inkavo/core/model/events';
import { useBench } from './bench';
import { clipChangedElsewhere } from './clipKeeper';
import { keeper } from './keeper';

/** Applies changes by others to the open clip, its camera or its outing. */
export function changedElsewhere(event: ServerEvent): void {
  const open = useBench.getState().opened?.clip;
  if (!open) return;
  if (event.type === 'outing' && event.id === open.outingId) void clipChangedElsewhere();
  if (event.type !== 'clip') return;
  if (event.id === open.id) void clipChangedElsewhere();
  if (event.id === open.id || (event.shared && event.outingId === open.outingId)) void keeper.changedElsewhere();
}
