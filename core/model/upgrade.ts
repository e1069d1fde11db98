import { ALL_KINDS } from '../steps';

/** A step as stored by this or an older version of the program. */
interface Stored {
  kind?: unknown;
  version?: unknown;
  params?: unknown;
}

/** Upgrades parameters from one version of a kind to the next. */
export type Upgrade = (params: Record<string, unknown>) => Record<string, unknown>;

/** Upgrades of a kind, oldest first: its current version is one more than their number. */
type UpgradesOf = (kind: unknown) => readonly Upgrade[];
const upgradesOfKind: UpgradesOf = (kind) => ALL_KINDS.find((k) => k.kind === kind)?.upgrades ?? [];

/**
 * Upgrades a stored step to the current version of its kind; a step without a version has version 1. Anything that is
 * not a step, or was written by a newer version of the program, is returned unchanged and refused by the schema.
 */
export function upgradeStep(step: unknown, upgradesOf: UpgradesOf = upgradesOfKind): unknown {
  if (typeof step !== 'object' || step === null || Array.isArray(step)) return step;
  const { kind, version = 1, params = {}, ...rest } = step as Stored;
  const upgrades = upgradesOf(kind);
  const present = upgrades.length + 1;
  if (typeof version !== 'number' || version > present || typeof params !== 'object' || params === null) return step;
  const upgraded = upgrades.slice(version - 1).reduce((p, upgrade) => upgrade(p), params as Record<string, unknown>);
  return { ...rest, kind, params: upgraded, ...(present > 1 ? { version: present } : {}) };
}

/** The version of a kind's parameters that this program writes. */
export const presentVersion = (kind: string): number => upgradesOfKind(kind).length + 1;
