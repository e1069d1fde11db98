import { useRouter } from 'expo-router';
import { useState } from 'react';
import { outingPatch, type Outing } from '@inkavo/core/model/outing';
import { act, type Command } from '../../state/commands';
import { Button } from '../../ui/Button';
import { DayField, Field } from '../../ui/Field';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Share, Trash } from '../../ui/icons';

/** Name, place and day of an outing, its deliveries, and its removal. */
export function OutingSheet({
  outing,
  clips,
  onOut,
  onClose,
}: {
  outing: Outing;
  /** Number of clips. */
  clips: number;
  onOut(): void;
  onClose(): void;
}) {
  const router = useRouter();
  const { id, name, place, date } = outing;
  const [next, setNext] = useState({ name, place, date });
  const [trouble, setTrouble] = useState<string | null>(null);
  const set = (key: keyof typeof next) => (text: string) => setNext((n) => ({ ...n, [key]: text }));
  const save = async (): Promise<void> => {
    const parsed = outingPatch.safeParse(next);
    if (!parsed.success) return setTrouble(parsed.error.issues[0].message);
    const command: Command = {
      place: id,
      what: 'name and day of the outing',
      done: [{ on: 'outing', id, patch: next }],
      undone: [{ on: 'outing', id, patch: { name, place, date } }],
    };
    if (await act(command)) onClose();
  };
  const remove = async (): Promise<void> => {
    const done = await act(
      {
        place: 'outings',
        what: `removal of ${name}`,
        done: [{ on: 'remove', kind: 'outing', ids: [id] }],
        undone: [{ on: 'back', kind: 'outing', ids: [id] }],
      },
      `${name} was removed. It can be put back for a week.`,
    );
    if (!done) return;
    onClose();
    router.replace('/');
  };
  return (
    <Sheet title="This outing" onClose={onClose}>
      <Field label="Name" value={next.name} onChange={set('name')} onSubmitEditing={() => void save()} />
      <Field label="Place" value={next.place} onChange={set('place')} onSubmitEditing={() => void save()} />
      <DayField label="Day" value={next.date} onChange={set('date')} />
      {trouble ? <Trouble text={trouble} /> : null}
      <Button title="Save" look="strong" onPress={() => void save()} />
      {clips > 0 ? <Button title="Film, report, timeline …" icon={Share} onPress={onOut} /> : null}
      <Button title="Remove this outing" icon={Trash} onPress={() => void remove()} />
    </Sheet>
  );
}
