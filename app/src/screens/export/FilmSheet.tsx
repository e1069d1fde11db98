import { useState } from 'react';
import { View } from 'react-native';
import { filmFormat, filmFrames, LONGEST_DISSOLVE, placeShots } from '@inkavo/core/model/film';
import type { ListedClip } from '@inkavo/core/model/outing';
import type { NumberSpec } from '@inkavo/core/steps';
import { api } from '../../api/client';
import { Ruler } from '../../instruments/Ruler';
import { useDelivery } from '../../state/deliverySettings';
import { Button } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Choice } from '../../ui/Choice';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { DeliveryFields } from './DeliveryFields';
import { keptFirst } from './keptFirst';
import { useQueued } from './useQueued';

const DISSOLVE: NumberSpec = {
  ...{ key: 'dissolve', label: 'Length of a dissolve', unit: 'second' },
  ...{ min: 0.1, max: LONGEST_DISSOLVE, neutral: 0.5, step: 0.1 },
};

/** Minutes, and seconds to a tenth. */
const lengthText = (frames: number, rate: number): string => {
  const tenths = Math.round((10 * frames) / rate);
  return `${Math.floor(tenths / 600)}:${((tenths % 600) / 10).toFixed(1).padStart(4, '0')}`;
};

/** Queues the clips of an outing, in order, as one file. */
export function FilmSheet({
  outingId,
  clips,
  onClose,
}: {
  outingId: string;
  /** In the order of the film. */
  clips: readonly ListedClip[];
  onClose(): void;
}) {
  const queued = useQueued(onClose);
  const { delivery: last, set } = useDelivery();
  // A film is delivered as standard video.
  const delivery = { ...last, colour: 'standard' as const };
  const [dissolve, setDissolve] = useState(0);
  const [levelled, setLevelled] = useState(true);
  const [wide, setWide] = useState(true);
  const [upright, setUpright] = useState(false);
  const [state, setState] = useState<{ busy: boolean; trouble?: string }>({ busy: false });
  const { width, height, rate } = filmFormat(clips, delivery);
  // The sizes offered are those below the film's own, not below the chosen one.
  const own = filmFormat(clips, { ...delivery, lines: null, aspect: null });
  const fps = rate.num / rate.den;
  const frames = filmFrames(placeShots(clips, rate, dissolve));
  const make = async (): Promise<void> => {
    setState({ busy: true });
    try {
      const clipIds = clips.map((c) => c.id);
      await keptFirst(clipIds);
      const request = { outingId, clipIds, dissolve, levelled };
      if (wide) await api.makeFilm({ ...request, delivery });
      // Queued only once: if the other one fails, a retry repeats that one alone.
      setWide(false);
      if (upright)
        await api.makeFilm({ ...request, delivery: { ...delivery, aspect: '9:16', lines: Math.min(1080, height) } });
      queued();
    } catch (error) {
      setState({ busy: false, trouble: (error as Error).message });
    }
  };
  return (
    <Sheet title={`A film of ${clips.length} clip${clips.length === 1 ? '' : 's'}`} onClose={onClose}>
      <View role="status" aria-label="What comes out" className="gap-1 rounded bg-surface p-3">
        <Txt bold>
          {lengthText(frames, fps)} · {width}×{height} · {Number(fps.toFixed(2))} fps
        </Txt>
        <Txt size="sm" quiet numberOfLines={3}>
          {clips.map((c) => c.name).join(', ')}
        </Txt>
      </View>
      <Choice
        label="Where clips meet"
        value={dissolve > 0 ? 'dissolve' : 'cut'}
        options={[
          { value: 'cut', title: 'Straight cuts' },
          { value: 'dissolve', title: 'Dissolves' },
        ]}
        onChange={(v) => setDissolve(v === 'cut' ? 0 : DISSOLVE.neutral)}
      />
      {dissolve > 0 ? (
        <Ruler spec={DISSOLVE} value={dissolve} onChange={setDissolve} onSettle={() => undefined} />
      ) : null}
      <CheckRow label="Even out how loud the clips are" on={levelled} onChange={setLevelled}>
        <Txt>Even out how loud the clips are</Txt>
      </CheckRow>
      <CheckRow label="The film" on={wide} onChange={setWide}>
        <Txt>The film</Txt>
      </CheckRow>
      <CheckRow label="Also upright, for a phone" on={upright} onChange={setUpright}>
        <Txt>Also upright, for a phone: 9:16</Txt>
      </CheckRow>
      <DeliveryFields value={delivery} facts={own} onChange={set} film />
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      <Button
        title={state.busy ? 'Queueing …' : wide && upright ? 'Make both' : 'Make the film'}
        look="strong"
        disabled={state.busy || !(wide || upright)}
        onPress={() => void make()}
      />
    </Sheet>
  );
}
