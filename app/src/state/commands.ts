import type { z } from 'zod';
import { stepSides, type ClipChange } from '@inkavo/core/model/change';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import type { cameraPatch, clipPatch, outingPatch, StepClips } from '@inkavo/core/model/outing';
import type { Removable } from '@inkavo/core/model/removed';
import type { Step } from '@inkavo/core/model/grade';
import type { ShelfPatch } from '@inkavo/core/model/shelf';
import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import { api } from '../api/client';
import { queries } from '../api/queries';
import { refresh } from '../api/refresh';
import { takeClip } from './clipKeeper';
import { dropMessage, tell, tellTrouble, type Message } from './messages';
import { putSteps } from './putSteps';

/** A request to the server, as data: it survives a reload. */
export type Action =
  | { on: 'outing'; id: string; patch: z.input<typeof outingPatch> }
  | { on: 'camera'; id: string; patch: z.infer<typeof cameraPatch> }
  | { on: 'clip'; id: string; patch: z.infer<typeof clipPatch> }
  | { on: 'split'; id: string; frame: number; as: string }
  | { on: 'steps'; id: string; from: Step[]; to: Step[] }
  | { on: 'dive'; id: string; dive: ClipDive | null }
  | { on: 'stepClips'; owner: 'camera' | 'outing'; id: string; step: string; put: StepClips }
  | { on: 'shelf'; id: string; patch: ShelfPatch }
  | { on: 'remove' | 'back'; kind: Removable; ids: string[] };

/** A user action on a screen, and how to undo it. */
export interface Command {
  /** The outing it belongs to, or `outings`, `exports`, `shelf`. */
  place: string;
  /** Description, used after "Undo: ". */
  what: string;
  done: Action[];
  undone: Action[];
}

interface Commands {
  past: Command[];
  future: Command[];
}

const MOST = 100;
/** Milliseconds after which an action in progress is reported. */
const SAID_AFTER_MS = 700;

/** Undo history of actions on outings, cameras, clips and files in this tab. */
export const useCommands = create<Commands>()(
  persist(() => ({ past: [], future: [] }) as Commands, {
    name: 'inkavo-commands',
    storage: createJSONStorage(() => sessionStorage),
  }),
);

/** Actions on a clip that have a variant for several. */
const changeOf = (action: Action): ClipChange[] =>
  action.on === 'clip'
    ? [{ id: action.id, patch: action.patch }]
    : action.on === 'steps'
      ? [{ id: action.id, steps: stepSides(action.from, action.to) }]
      : [];

async function run(actions: Action[]): Promise<void> {
  const together = actions.flatMap(changeOf);
  // Atomic: an action on only a part of them could not be undone.
  if (actions.length > 1 && together.length === actions.length) return api.clipsTogether(together);
  for (const action of actions) {
    if (action.on === 'outing') await api.changeOuting(action.id, action.patch);
    else if (action.on === 'camera') await api.changeCamera(action.id, action.patch);
    else if (action.on === 'clip') takeClip(await api.changeClip(action.id, action.patch));
    else if (action.on === 'split') takeClip((await api.splitClip(action.id, action.frame, action.as)).clip);
    else if (action.on === 'shelf') await api.changeShelfItem(action.id, action.patch);
    else if (action.on === 'stepClips') await api.limitStep(action.owner, action.id, action.step, action.put);
    else if (action.on === 'steps') await putSteps(action.id, action.from, action.to);
    else if (action.on === 'dive') await api.setDive(action.id, action.dive);
    else if (action.on === 'remove') await api.remove(action.kind, action.ids);
    else await api.putBack(action.kind, action.ids);
  }
}

/** The query of a place, which shows the results of its actions. */
const LISTS: Record<string, string[]> = { outings: ['outings'], exports: ['jobs'], shelf: ['shelf'] };
const showAt = (place: string): void => void refresh(queries, LISTS[place] ?? ['outing', place], true);

/** Reports an action in progress, if it takes a moment. */
async function saying(text: string, work: Promise<void>): Promise<void> {
  const timer = setTimeout(() => tell({ key: 'working', text }), SAID_AFTER_MS);
  try {
    await work;
  } finally {
    clearTimeout(timer);
    dropMessage('working');
  }
}

/**
 * Runs an undoable action. False: it failed, with a message shown. `offer` shows an undo button, and follow-up actions.
 */
export async function act(command: Command, offer?: string, more: Message['actions'] = []): Promise<boolean> {
  try {
    await saying(`Under way: ${command.what} …`, run(command.done));
  } catch (error) {
    tellTrouble('command', (error as Error).message);
    return false;
  }
  dropMessage('command');
  showAt(command.place);
  useCommands.setState(({ past, future }) => ({
    past: [...past, command].slice(-MOST),
    future: future.filter((d) => d.place !== command.place),
  }));
  if (offer)
    tell({
      ...{ key: 'offer', text: offer, fades: true },
      actions: [...more, { title: 'Undo', run: () => void undo(command.place) }],
    });
  return true;
}

const last = (commands: Command[], place: string): Command | undefined => commands.findLast((d) => d.place === place);

async function turn(place: string, from: 'past' | 'future'): Promise<void> {
  const command = last(useCommands.getState()[from], place);
  if (!command) return;
  const to = from === 'past' ? 'future' : 'past';
  try {
    const isUndone = from === 'past';
    await saying(
      `${isUndone ? 'Undoing' : 'Doing again'}: ${command.what} …`,
      run(isUndone ? command.undone : command.done),
    );
    useCommands.setState((s) => ({ [from]: s[from].filter((d) => d !== command), [to]: [...s[to], command] }));
    showAt(command.place);
    dropMessage('offer');
    tell({ key: 'turned', text: `${from === 'past' ? 'Undone' : 'Redone'}: ${command.what}.`, fades: true });
  } catch (error) {
    // Retrying cannot restore what was deleted permanently; it can succeed after a network failure.
    if ((error as { status?: number }).status !== 0)
      useCommands.setState((s) => ({ [from]: s[from].filter((d) => d !== command) }));
    tellTrouble('command', (error as Error).message);
  }
}

export const undo = (place: string): Promise<void> => turn(place, 'past');
export const redo = (place: string): Promise<void> => turn(place, 'future');

/** Labels of undo and redo at a place. */
export const useTurns = (place: string): { undo?: string; redo?: string } => {
  const past = useCommands((s) => last(s.past, place)?.what);
  const future = useCommands((s) => last(s.future, place)?.what);
  return { undo: past, redo: future };
};
