import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { View } from 'react-native';
import { fps, type MediaFacts } from '@inkavo/core/model/facts';
import { conform, keepsFrames, retimedSeconds, retimeSchema, usualRate, type Retime } from '@inkavo/core/model/retime';
import type { NumberSpec } from '@inkavo/core/steps';
import { Ruler } from '../../instruments/Ruler';
import { shownTrim, useBench } from '../../state/bench';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { outingQuery } from '../../api/queries';
import { Txt } from '../../ui/Txt';

const FACTOR: NumberSpec = {
  key: 'factor',
  label: 'Times the recorded speed',
  unit: 'factor',
  min: 0.05,
  max: 8,
  neutral: 1,
  step: 0.05,
};
const BETWEEN = [
  { value: 'nearest', title: 'Nearest frame' },
  { value: 'blended', title: 'Frames blended' },
] as const;
const SOUND = [
  { value: 'follows', title: 'Sound follows' },
  { value: 'goes', title: 'No sound' },
] as const;

const rateText = ({ num, den }: MediaFacts['frameRate']): string => String(Number((num / den).toFixed(2)));

/** Speed of the delivered clip: as recorded, every frame at the outing's rate, or by a factor. */
export function ClipSpeed({ facts }: { facts: MediaFacts }) {
  const clip = useBench((s) => s.opened!.clip);
  const { inFrame, outFrame } = useBench(shownTrim);
  const { data } = useQuery(outingQuery(clip.outingId));
  const [live, setLive] = useState<number | null>(null);
  const retime = live === null ? clip.retime : retimeSchema.parse({ ...clip.retime, factor: live });
  const rate = data && usualRate(data.clips.filter((c) => c.id !== clip.id));
  const offered = rate ? conform(facts, rate) : null;
  const frames = outFrame - inFrame + 1;
  const set = (next: Retime | null): void => {
    setLive(null);
    useBench.getState().setRetime(next);
  };
  const by = (part: Partial<Retime>): void => {
    const next = retimeSchema.parse({ factor: 1, ...clip.retime, ...part });
    set(next.factor === 1 && next.rate === null && next.sound === 'follows' ? null : next);
  };
  return (
    <View className="gap-2" role="group" aria-label="Speed of the clip, kept and exported">
      <Txt bold>Speed of the clip, kept and exported</Txt>
      <Ruler
        spec={FACTOR}
        value={retime?.factor ?? 1}
        onChange={(factor, moving) => (moving ? setLive(factor) : by({ factor }))}
        onSettle={() => live !== null && by({ factor: live })}
      />
      <Txt size="sm" role="status">
        {retimedSeconds(facts, frames, retime).toFixed(2)} s
        {retime ? `, ${(frames / fps(facts)).toFixed(2)} s as recorded` : ''}
        {retime
          ? keepsFrames(facts, retime)
            ? ': every frame once'
            : `: ${BETWEEN.find((b) => b.value === retime.between)!.title.toLowerCase()}`
          : ''}
        {` at ${rateText(retime?.rate ?? facts.frameRate)} a second`}
      </Txt>
      {offered && rate && offered.factor !== 1 ? (
        <Button
          title={`Every frame at ${rateText(rate)} a second: ${Number(offered.factor.toFixed(3))} times`}
          onPress={() => set({ ...offered, sound: clip.retime?.sound ?? 'follows' })}
        />
      ) : null}
      {retime && !keepsFrames(facts, retime) ? (
        <Choice
          label="Between frames"
          value={retime.between}
          options={BETWEEN}
          onChange={(between) => by({ between })}
        />
      ) : null}
      {facts.audio && retime ? (
        <Choice label="Sound" value={retime.sound} options={SOUND} onChange={(sound) => by({ sound })} />
      ) : null}
      {clip.retime ? <Button title="As recorded" onPress={() => set(null)} /> : null}
    </View>
  );
}
