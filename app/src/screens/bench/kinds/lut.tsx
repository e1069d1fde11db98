import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { ActivityIndicator, View } from 'react-native';
import { api } from '../../../api/client';
import { useBench } from '../../../state/bench';
import { Button } from '../../../ui/Button';
import { ChoiceList } from '../../../ui/Choice';
import { Trouble } from '../../../ui/Note';
import { OpenerField } from '../../../ui/OpenerField';
import { Sheet } from '../../../ui/Sheet';
import type { ControlsProps, KindControls } from './types';
import { Txt } from '../../../ui/Txt';
import { FileUp } from '../../../ui/icons';

/** Chooses the table of a LUT step, or brings one in. */
function LutChoice({ id, params }: ControlsProps) {
  const [open, setOpen] = useState(false);
  return (
    <View className="h-[48px] justify-center px-2">
      <OpenerField
        title="Table"
        value={params.lut === null ? 'none chosen' : String(params.title)}
        onPress={() => setOpen(true)}
      />
      {open ? <LutSheet id={id} chosen={params.lut as string | null} onClose={() => setOpen(false)} /> : null}
    </View>
  );
}

function LutSheet({ id, chosen, onClose }: { id: string; chosen: string | null; onClose(): void }) {
  const client = useQueryClient();
  const { data: luts } = useQuery({ queryKey: ['luts'], queryFn: api.luts });
  const input = useRef<HTMLInputElement>(null);
  const [state, setState] = useState<{ busy: boolean; trouble: string | null }>({ busy: false, trouble: null });
  const choose = (lut: { id: string; title: string } | undefined): void => {
    useBench.getState().setParams(id, { lut: lut?.id ?? null, title: lut?.title ?? '' });
    onClose();
  };
  const bringIn = async (file: File): Promise<void> => {
    setState({ busy: true, trouble: null });
    try {
      const added = await api.addLut(file);
      await client.invalidateQueries({ queryKey: ['luts'] });
      choose(added);
    } catch (error) {
      setState({ busy: false, trouble: `${file.name}: ${(error as Error).message}` });
    }
  };
  return (
    <Sheet title="Table" onClose={onClose}>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      {luts ? (
        <ChoiceList
          label="Table"
          value={chosen ?? ''}
          options={[{ value: '', title: 'None' }, ...luts.map((l) => ({ value: l.id, title: l.title, note: l.note }))]}
          onChange={(value) => choose(luts.find((l) => l.id === value))}
        />
      ) : (
        <ActivityIndicator color="var(--ink)" accessibilityLabel="Fetching the tables" />
      )}
      {luts?.length === 0 ? <Txt quiet>No table is here yet. Bring in a .cube or a CLF file.</Txt> : null}
      <input
        ref={input}
        type="file"
        accept=".cube,.clf,.xml,.txt"
        aria-label="A .cube or CLF file"
        style={{ display: 'none' }}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) void bringIn(file);
          e.target.value = '';
        }}
      />
      <Button
        title={state.busy ? 'Bringing it in …' : 'Bring in a .cube or CLF file'}
        icon={FileUp}
        disabled={state.busy}
        onPress={() => input.current?.click()}
      />
    </Sheet>
  );
}

export const lutControls: KindControls = { Head: LutChoice };
