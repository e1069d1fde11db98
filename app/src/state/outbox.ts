import { changeOf, sidesOf } from '@inkavo/core/model/change';
import { mergeLists, type Side } from '@inkavo/core/model/merge';
import { api } from '../api/client';
import { deviceLog, messageOf, newChangeId, TAB, type Entry } from './deviceLog';
import { keeper, stateOf, useKeep } from './keeper';
import { dropMessage, tell } from './messages';
import { sendChange } from './sendChange';
import { isOpen } from './tabs';

const WAITING = 'outbox-waiting';

/** Sends pending changes of clips that are not open here: after they were closed, and those left by closed pages. */
class Outbox {
  private busy: Promise<void> | undefined;

  run(): Promise<void> {
    this.busy ??= this.send().finally(() => (this.busy = undefined));
    return this.busy;
  }

  private async send(): Promise<void> {
    const held = new Set<string>();
    let why: string | undefined;
    for (const entry of deviceLog.all()) {
      const { id, clipId, tab } = entry;
      if (clipId === keeper.clipId || held.has(clipId)) continue;
      if (tab !== TAB && (await isOpen(tab))) continue;
      if (clipId === keeper.clipId || !deviceLog.has(id)) continue;
      // A clip's changes depend on each other: a stuck one blocks the later ones.
      held.add(clipId);
      if (entry.asked || entry.refused) {
        this.say(entry);
        continue;
      }
      const outcome = await sendChange(entry);
      if (outcome.is === 'later') {
        why = outcome.why;
        break;
      }
      if (outcome.is === 'stored') {
        deviceLog.remove(id);
        held.delete(clipId);
      } else {
        const stuck: Entry = {
          ...entry,
          ...(outcome.is === 'asked' ? { asked: { clashes: outcome.clashes, theirs: outcome.theirs } } : {}),
          ...(outcome.is === 'refused' ? { refused: outcome.reason } : {}),
        };
        deviceLog.write(stuck);
        this.say(stuck);
      }
    }
    this.sayWaiting(why);
  }

  private sayWaiting(why: string | undefined): void {
    const clips = new Set(deviceLog.all().flatMap((e) => (e.clipId === keeper.clipId ? [] : [e.clipId])));
    if (why === undefined || clips.size === 0) return dropMessage(WAITING);
    const what = clips.size === 1 ? 'Edits of a clip wait' : `Edits of ${clips.size} clips wait`;
    tell({ key: WAITING, text: `${what} on this device (${why}). They are sent by themselves as soon as it works.` });
  }

  private say(entry: Entry): void {
    const { clipName, refused } = entry;
    if (useKeep.getState().question?.id === entry.id) return;
    if (refused)
      return tell({
        key: messageOf(entry),
        text: `${clipName}: the server does not take an edit. ${refused} It is still on this device.`,
        actions: [{ title: 'Let it go', run: () => this.letGo(entry) }],
      });
    tell({
      key: messageOf(entry),
      text: `${clipName}: the same steps were changed here and elsewhere.`,
      actions: [
        {
          title: 'Decide',
          strong: true,
          run() {
            dropMessage(messageOf(entry));
            useKeep.setState({ question: entry });
          },
        },
      ],
    });
  }

  private letGo(entry: Entry): void {
    deviceLog.remove(entry.id);
    dropMessage(messageOf(entry));
    void this.run();
  }

  /** After a conflict in a clip that is not open here. */
  async resolve(entry: Entry, side: Side): Promise<void> {
    const theirs = stateOf(await api.clip(entry.clipId)).lists;
    const { base, next } = sidesOf(entry.change, theirs);
    const id = newChangeId();
    const change = changeOf(id, theirs, mergeLists(base, next, theirs, side).lists);
    deviceLog.write({ ...entry, asked: undefined, id, tab: TAB, change });
    this.letGo(entry);
    useKeep.setState({ question: null });
  }
}

export const outbox = new Outbox();

/** Answers the current question, whichever clip it is about. */
export const answerQuestion = (entry: Entry, side: Side): Promise<void> =>
  entry.clipId === keeper.clipId ? keeper.resolve(side) : outbox.resolve(entry, side);
