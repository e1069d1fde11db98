import { wrap, type Remote } from 'comlink';
import type { BakedOp } from '@inkavo/core/program/baked';
import type { Renderers } from './picture/pictureWorker';
import { TablesSent } from './sentTables';
import type { EngineApi } from './worker/worker';

const start = (): Remote<EngineApi> => wrap<EngineApi>(new Worker(new URL('./worker/worker.ts', window.location.href)));

/**
 * Two workers: one bakes tables and solves, so that the picture never waits for the scopes, which the other computes.
 */
let workers: { tables: Remote<EngineApi>; scopes: Remote<EngineApi> } | undefined;

export function engine(): NonNullable<typeof workers> {
  workers ??= { tables: start(), scopes: start() };
  return workers;
}

const measuredTables = new TablesSent();
/** Sends a grade to the measuring worker, immediately: see {@link TablesSent}. */
export const toMeasure = <T extends { ops: readonly BakedOp[] }>(from: T): T => ({
  ...from,
  ops: measuredTables.pack(from.ops),
});

let pictures: Remote<Renderers> | undefined;

/** The worker in which pictures are drawn. */
export function pictureWorker(): NonNullable<typeof pictures> {
  pictures ??= wrap<Renderers>(new Worker(new URL('./picture/pictureWorker.ts', window.location.href)));
  return pictures;
}
