import { wrap, type Remote } from 'comlink';
import type { EngineApi } from './worker';

const start = (): Remote<EngineApi> => wrap<EngineApi>(new Worker(new URL('./worker.ts', window.location.href)));

/** Two workers: one bakes tables and solves, so that the picture never waits for the scopes, which the other draws. */
let workers: { tables: Remote<EngineApi>; scopes: Remote<EngineApi> } | undefined;

export function engine(): NonNullable<typeof workers> {
  workers ??= { tables: start(), scopes: start() };
  return workers;
}
