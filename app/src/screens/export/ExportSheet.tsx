import { useState } from 'react';
import { holdsHlg } from '@inkavo/core/model/delivery';
import type { MediaFacts } from '@inkavo/core/model/facts';
import { isHlg } from '@inkavo/core/program/deliver';
import { api } from '../../api/client';
import { useDelivery } from '../../state/deliverySettings';
import { Button } from '../../ui/Button';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { AlsoAs, useOtherPresets } from './AlsoAs';
import { DeliveryFields } from './DeliveryFields';
import { ExpectedLine } from './ExpectedLine';
import { keptFirst } from './keptFirst';
import { useQueued } from './useQueued';
import { PresetRow } from './PresetRow';

interface Exported {
  id: string;
  facts: Pick<MediaFacts, 'width' | 'height' | 'tags'>;
}

/** The clip with the most pixels. */
const largest = (clips: readonly Exported[]): Exported =>
  clips.reduce((a, b) => (b.facts.width * b.facts.height > a.facts.width * a.facts.height ? b : a));

/** Adds clips to the export queue. */
export function ExportSheet({ clips, onClose }: { clips: readonly Exported[]; onClose(): void }) {
  const queued = useQueued(onClose);
  const { delivery: last, set } = useDelivery();
  const hlg = clips.every((c) => isHlg(c.facts));
  // Settings chosen for another clip may not apply to these.
  const delivery = hlg && holdsHlg(last.codec) ? last : { ...last, colour: 'standard' as const };
  const ids = clips.map((c) => c.id);
  const [chosen, setChosen] = useState<string[]>([]);
  const others = useOtherPresets(delivery);
  const also = others
    .filter((p) => chosen.includes(p.id))
    .map((p) => (hlg ? p.delivery : { ...p.delivery, colour: 'standard' as const }));
  const files = ids.length * (1 + also.length);
  const [state, setState] = useState<{ busy: boolean; trouble?: string }>({ busy: false });
  const queue = async (): Promise<void> => {
    setState({ busy: true });
    try {
      await keptFirst(ids);
      await api.deliver(ids, delivery, also);
      queued();
    } catch (error) {
      setState({ busy: false, trouble: (error as Error).message });
    }
  };
  return (
    <Sheet title={clips.length === 1 ? 'Export this clip' : `Export ${clips.length} clips`} onClose={onClose}>
      <PresetRow value={delivery} onTake={set} />
      <DeliveryFields value={delivery} facts={largest(clips).facts} onChange={set} hlg={hlg} />
      <AlsoAs others={others} chosen={chosen} onChange={setChosen} />
      <ExpectedLine clipId={ids[0]} delivery={delivery} of={ids.length} files={files} />
      <Txt size="sm" quiet>
        From in to out, each clip at the speed that was set for it. The original is not touched.
      </Txt>
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      <Button
        title={state.busy ? 'Queueing …' : also.length > 0 ? `Export ${files} files` : 'Export'}
        look="strong"
        disabled={state.busy}
        onPress={() => void queue()}
      />
    </Sheet>
  );
}
