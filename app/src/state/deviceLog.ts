import { nanoid } from 'nanoid/non-secure';
import type { StepLists } from '@inkavo/core/model/lists';
import type { Clash } from '@inkavo/core/model/merge';
import { changeOf, type Change, type StepsState } from '@inkavo/core/model/change';

/** A change of a clip's steps that the server has not confirmed. Immutable: another edit has another id. */
export interface Entry {
  id: string;
  clipId: string;
  clipName: string;
  /** Frame to show if the user has to resolve a conflict. */
  frame: number;
  /** The page that made it. */
  tab: string;
  /** Milliseconds since 1970. */
  at: number;
  /** The difference between the lists before and after; undefined: they are equal again. */
  change?: Change;
  /** Conflict with a change elsewhere: the user has to resolve it. */
  asked?: { clashes: Clash[]; theirs: StepsState };
  /** Why the server rejects it. */
  refused?: string;
}

/** This page. */
export const TAB = nanoid(10);
export const newChangeId = (): string => nanoid(16);

/** Message key for a change of a clip that is not open. */
export const messageOf = ({ id }: Entry): string => `change-${id}`;

let lastTime = 0;
/** Now, but later than anything this page has written: clocks may go back, and the order of changes must not. */
export const nextTime = (): number => (lastTime = Math.max(Date.now(), lastTime + 1));

const PREFIX = 'inkavo-change-';

/**
 * Changes that the server has not confirmed, in this device's storage: one key each, so that pages do not overwrite
 * each other's. If storage is full, they are only held in memory.
 */
class DeviceLog {
  private readonly inPageOnly = new Map<string, Entry>();

  /** False: storage is full, and the change is lost with the page. */
  write(entry: Entry): boolean {
    try {
      localStorage.setItem(PREFIX + entry.id, JSON.stringify(entry));
      this.inPageOnly.delete(entry.id);
      return true;
    } catch {
      this.inPageOnly.set(entry.id, entry);
      return false;
    }
  }

  remove(id: string): void {
    this.inPageOnly.delete(id);
    localStorage.removeItem(PREFIX + id);
  }

  has = (id: string): boolean => this.inPageOnly.has(id) || localStorage.getItem(PREFIX + id) !== null;
  onDevice = (id: string): boolean => localStorage.getItem(PREFIX + id) !== null;

  /** All changes, oldest first. This page's own version of one is newer. */
  all(): Entry[] {
    const stored = Object.keys(localStorage)
      .filter((key) => key.startsWith(PREFIX) && !this.inPageOnly.has(key.slice(PREFIX.length)))
      .flatMap((key) => parseEntry(localStorage.getItem(key)));
    return [...stored, ...this.inPageOnly.values()].sort((a, b) => a.at - b.at);
  }

  ofClip = (clipId: string): Entry[] => this.all().filter((e) => e.clipId === clipId);
}

function parseEntry(text: string | null): Entry[] {
  try {
    return text ? [upgraded(JSON.parse(text) as Entry | WholeEntry)] : [];
  } catch {
    return [];
  }
}

/** Entries in the format used before they held differences only. */
type WholeEntry = Omit<Entry, 'change'> & { base: StepLists; next: StepLists };

function upgraded(entry: Entry | WholeEntry): Entry {
  if (!('base' in entry)) return entry;
  const { base, next, ...rest } = entry;
  return { ...rest, change: changeOf(rest.id, base, next) };
}

export const deviceLog = new DeviceLog();
