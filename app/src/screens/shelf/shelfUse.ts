import { createContext, useContext } from 'react';
import type { Step } from '@inkavo/core/model/grade';
import { PROFILES } from '@inkavo/core/model/profile';
import type { ShelfItem, ShelfKind, ShelfProfile } from '@inkavo/core/model/shelf';
import type { PreviewFrame } from './preview';

/** What the shelf is opened for: the frame it is drawn on, and what an item does there. */
export interface ShelfUse {
  on: PreviewFrame;
  kinds: readonly ShelfKind[];
  /** All steps of the frame as it is now. */
  now: Step[];
  /** All steps of the frame with an item taken. */
  put(item: ShelfItem): Step[];
  /** Takes an item. Undefined: here one only looks. */
  take?: { title: string; run(item: ShelfItem): void };
  /** Whether an item is the one in use now. */
  inUse?(item: ShelfItem): boolean;
  /** Items that the footage itself speaks for, the likeliest first. */
  likely?: Likely;
}

/** What the footage speaks for; undefined as long as it is read. */
export interface Likely {
  found: readonly { item: ShelfItem; likelihood: number; reason: string }[] | undefined;
  sure: boolean;
  /** How likely it is that none of all profiles was used, 0–1. */
  unknown: number;
}

export const ShelfContext = createContext<ShelfUse | null>(null);
/** What the shelf is opened for; null where there is no clip to draw on. */
export const useShelf = (): ShelfUse | null => useContext(ShelfContext);

/** Profiles that come with the application, as items; they can be used, not changed. */
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
