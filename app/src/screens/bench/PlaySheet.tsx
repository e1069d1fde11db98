import { View } from 'react-native';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { shownTrim, useBench } from '../../state/bench';
import { goTo } from '../../state/playhead';
import { keptSpan, showOnStrip } from '../../state/strip';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { RotateCcw, Scissors } from '../../ui/icons';
import { ClipSpeed } from './ClipSpeed';
import { splitHere } from './splitHere';
import { TimeField } from './TimeField';
import { timeText } from './timeText';

const SPEEDS = [
  { value: '0.25', title: '¼', label: 'A quarter of the speed' },
  { value: '0.5', title: '½', label: 'Half the speed' },
  { value: '1', title: '1', label: 'The recorded speed' },
  { value: '2', title: '2', label: 'Twice the speed' },
] as const;
const ON_STRIP = [
  { value: 'whole', title: 'All on the strip' },
  { value: 'kept', title: 'What is kept' },
] as const;
const LOOP = [
  { value: 'on', title: 'Again from in' },
  { value: 'off', title: 'Stop' },
] as const;

/** Playback settings, and the kept range of the clip. */
export function PlaySheet({ facts, onClose }: { facts: MediaFacts; onClose(): void }) {
  const play = useBench((s) => s.play);
  const { inFrame, outFrame } = useBench(shownTrim);
  const frame = useBench((s) => s.frame);
  const strip = useBench((s) => s.strip);
  const kept = keptSpan(facts.frames, { inFrame, outFrame });
  const { set, setTrim } = useBench.getState();
  const rate = fps(facts);
  const whole = inFrame === 0 && outFrame === facts.frames - 1;
  return (
    <Sheet title="Playing" onClose={onClose}>
      <Txt size="sm" quiet>
        While it is looked at, times its speed
      </Txt>
      <Choice
        label="Speed"
        value={String(play.speed) as (typeof SPEEDS)[number]['value']}
        options={SPEEDS}
        onChange={(v) => set({ play: { ...play, speed: Number(v) } })}
      />
      <Txt size="sm" quiet>
        At out
      </Txt>
      <Choice
        label="At out"
        value={play.loop ? 'on' : 'off'}
        options={LOOP}
        onChange={(v) => set({ play: { ...play, loop: v === 'on' } })}
      />
      <View className="flex-row gap-2">
        <TimeField label="In" frame={inFrame} rate={rate} last={outFrame} onChange={(f) => setTrim({ inFrame: f })} />
        <TimeField label="Frame shown" frame={frame} rate={rate} last={facts.frames - 1} onChange={goTo} />
        <TimeField
          label="Out"
          frame={outFrame}
          rate={rate}
          first={inFrame}
          last={facts.frames - 1}
          onChange={(f) => setTrim({ outFrame: f })}
        />
      </View>
      <Txt>
        Kept {timeText(outFrame - inFrame + 1, rate)} of {timeText(facts.frames, rate)}
      </Txt>
      {kept ? (
        <Choice label="On the strip" value={strip ? 'kept' : 'whole'} options={ON_STRIP} onChange={showOnStrip} />
      ) : null}
      <ClipSpeed facts={facts} />
      <Button
        title="Split at the frame shown"
        icon={Scissors}
        disabled={frame <= inFrame || frame > outFrame}
        onPress={() => {
          onClose();
          void splitHere();
        }}
      />
      <Button
        title="Keep the whole clip"
        icon={RotateCcw}
        disabled={whole}
        onPress={() => setTrim({ inFrame: 0, outFrame: facts.frames - 1 })}
      />
      <Txt size="sm" quiet>
        Drag the play button to a side to wind, the handles of the strip to trim. A drag along the strip goes finer the
        further above it the finger is.
      </Txt>
    </Sheet>
  );
}
