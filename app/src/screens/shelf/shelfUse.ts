import { createContext, useContext } from 'react';
import type { Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import type { ShelfItem, ShelfKind, ShelfProfile } from '@inkavo/core/model/shelf';
import type { PreviewFrame } from './preview';

/** Context of the shelf: the frame for previews, and the action of an item. */
export interface ShelfUse {
  on: PreviewFrame;
  kinds: readonly ShelfKind[];
  /** All current steps of the frame. */
  now: Step[];
  /** All steps of the frame with an item taken. */
  put(item: ShelfItem): Step[];
  /** Takes an item. Undefined: browsing only. */
  take?: { title: string; run(item: ShelfItem): void };
  /** Whether an item is the one in use. */
  inUse?(item: ShelfItem): boolean;
  /** Items recognised from the footage, likeliest first. */
  likely?: Likely;
}

/** Findings from the footage; undefined while being read. */
export interface Likely {
  found: readonly { item: ShelfItem; likelihood: number; reason: string }[] | undefined;
  sure: boolean;
  /** Likelihood that no known profile was used, 0–1. */
  unknown: number;
}

export const ShelfContext = createContext<ShelfUse | null>(null);
/** Context of the shelf; null if there is no clip for previews. */
export const useShelf = (): ShelfUse | null => useContext(ShelfContext);

/** Built-in profiles as items; they can be used, not changed. */
export const BUILT_IN: readonly ShelfProfile[] = PROFILES.map((profile, i) => ({
  id: `built-in-${i}`,
  kind: 'profile',
  title: profile.name,
  group: 'Always here',
  note: '',
  profile,
}));
export const isBuiltIn = ({ id }: ShelfItem): boolean => id.startsWith('built-in-');

export const KIND_TITLES: Record<ShelfKind, string> = { recipe: 'Recipes', lut: 'Tables', profile: 'Profiles' };
