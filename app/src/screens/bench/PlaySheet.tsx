import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { shownTrim, useBench } from '../../state/bench';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { RotateCcw } from '../../ui/icons';
import { ClipSpeed } from './ClipSpeed';
import { timeText } from './timeText';

const SPEEDS = [
  { value: '0.25', title: '¼', label: 'A quarter of the speed' },
  { value: '0.5', title: '½', label: 'Half the speed' },
  { value: '1', title: '1', label: 'The recorded speed' },
  { value: '2', title: '2', label: 'Twice the speed' },
] as const;
const LOOP = [
  { value: 'on', title: 'Again from in' },
  { value: 'off', title: 'Stop' },
] as const;

/** How the clip is played, and what of it is kept. */
export function PlaySheet({ facts, onClose }: { facts: MediaFacts; onClose(): void }) {
  const play = useBench((s) => s.play);
  const { inFrame, outFrame } = useBench(shownTrim);
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
      <Txt>
        In {timeText(inFrame, rate)} · out {timeText(outFrame, rate)} · kept {timeText(outFrame - inFrame + 1, rate)} of{' '}
        {timeText(facts.frames, rate)}
      </Txt>
      <ClipSpeed facts={facts} />
      <Button
        title="Keep the whole clip"
        icon={RotateCcw}
        disabled={whole}
        onPress={() => setTrim({ inFrame: 0, outFrame: facts.frames - 1 })}
      />
      <Txt size="sm" quiet>
        Drag the play button to a side to wind, the handles of the strip to trim.
      </Txt>
    </Sheet>
  );
}
