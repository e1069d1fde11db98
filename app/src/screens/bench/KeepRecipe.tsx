import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import { api } from '../../api/client';
import { useBench } from '../../state/bench';
import { tell } from '../../state/messages';
import { withRegions } from '../../state/stepLists';
import { Button } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { GroupField } from '../shelf/GroupField';
import { stepsText } from './copying';

/** Saves steps of this clip on the shelf, under a name. */
export function KeepRecipe({ steps, onClose }: { steps: readonly Step[]; onClose(): void }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['shelf'], queryFn: api.shelf });
  const [title, setTitle] = useState('');
  const [group, setGroup] = useState('');
  const [note, setNote] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const groups = [...new Set(data?.map((i) => i.group).filter(Boolean))].sort();
  const keep = async (): Promise<void> => {
    const whole = withRegions(steps, joined(useBench.getState().lists));
    try {
      await api.putOnShelf({ kind: 'recipe', title, group, note, steps: whole });
      void client.invalidateQueries({ queryKey: ['shelf'] });
      tell({ key: 'recipe', text: `"${title.trim()}" is on the shelf.`, fades: true });
      onClose();
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  return (
    <Sheet title="Keep as a recipe" onClose={onClose}>
      <Txt quiet>{stepsText(steps)}, to be used on any clip.</Txt>
      {trouble ? <Trouble text={trouble} /> : null}
      <Field label="Name" value={title} onChange={setTitle} autoFocus />
      <GroupField value={group} groups={groups} onChange={setGroup} />
      <Field label="What it is for" value={note} onChange={setNote} maxLength={400} />
      <Button title="Keep" look="strong" disabled={!title.trim()} onPress={() => void keep()} />
    </Sheet>
  );
}
