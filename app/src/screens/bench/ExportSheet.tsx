import { useRouter } from 'expo-router';
import { useState } from 'react';
import { DELIVERY_INFO, type Delivery } from '@inkavo/core/model/job';
import { Ruler } from '../../instruments/Ruler';
import type { NumberSpec } from '@inkavo/core/steps';
import { api } from '../../api/client';
import { flushClips, usePending } from '../../state/clipKeeper';
import { keeper, useKeep } from '../../state/keeper';
import { Button } from '../../ui/Button';
import { ChoiceList } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';

type Codec = Delivery['codec'];
const OPTIONS = (Object.keys(DELIVERY_INFO) as Codec[]).map((value) => ({
  value,
  title: DELIVERY_INFO[value].title,
  note: DELIVERY_INFO[value].use,
}));
const QUALITY: NumberSpec = {
  key: 'quality',
  label: 'Quality (lower is finer)',
  unit: 'whole',
  min: 8,
  max: 40,
  neutral: 18,
  step: 1,
};

/** Puts clips into the export queue. */
export function ExportSheet({ clipIds, onClose }: { clipIds: string[]; onClose(): void }) {
  const router = useRouter();
  const [codec, setCodec] = useState<Codec>('h264');
  const [quality, setQuality] = useState(QUALITY.neutral);
  const [state, setState] = useState<{ busy: boolean; trouble?: string }>({ busy: false });
  const queue = async (): Promise<void> => {
    setState({ busy: true });
    try {
      // What is exported is what is kept, so what is shown must be kept first.
      await Promise.all([keeper.flush(), flushClips()]);
      const pending = Object.keys(usePending.getState().clips).some((id) => clipIds.includes(id));
      if (pending || useKeep.getState().state !== 'kept')
        throw new Error('What is shown is not kept on the server yet, so it cannot be exported.');
      await api.deliver(clipIds, { codec, quality: Math.round(quality) });
      onClose();
      router.push('/exports');
    } catch (error) {
      setState({ busy: false, trouble: (error as Error).message });
    }
  };
  return (
    <Sheet title={clipIds.length === 1 ? 'Export this clip' : `Export ${clipIds.length} clips`} onClose={onClose}>
      <ChoiceList label="Format" value={codec} options={OPTIONS} onChange={setCodec} />
      {codec === 'ffv1' ? null : (
        <Ruler spec={QUALITY} value={quality} onChange={setQuality} onSettle={() => undefined} />
      )}
      <Txt size="sm" quiet>
        From in to out, at the size of the original, each clip at the speed that was set for it. The original is not
        touched.
      </Txt>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      <Button
        title={state.busy ? 'Queueing …' : 'Export'}
        look="strong"
        disabled={state.busy}
        onPress={() => void queue()}
      />
    </Sheet>
  );
}
