import { ALL_KINDS } from '../steps';

/** A step as an older version of the program stored it, or the present one. */
interface Stored {
  kind?: unknown;
  version?: unknown;
  params?: unknown;
}

/** Takes parameters of one version of a kind to the next. */
export type Upgrade = (params: Record<string, unknown>) => Record<string, unknown>;

/** Upgrades of a kind, oldest first: its present version is one more than there are. */
type UpgradesOf = (kind: unknown) => readonly Upgrade[];
const upgradesOfKind: UpgradesOf = (kind) => ALL_KINDS.find((k) => k.kind === kind)?.upgrades ?? [];

/**
 * Brings a stored step to the present version of its kind; a step without a version is of the first. What is no step,
 * or was made by a newer version of the program, is handed back as it is: the schema refuses it.
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
