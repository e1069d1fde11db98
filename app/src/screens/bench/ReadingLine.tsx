import { useState } from 'react';
import { Pressable, View } from 'react-native';
import { MarkIcon } from '../../instruments/marks';
import { shownLists, useBench } from '../../state/bench';
import { isIdle, ownedSteps, type OwnedStep, type StepLists } from '../../state/stepLists';
import { Txt } from '../../ui/Txt';

/** One sentence with numbers about the frame; a tap shows the next one, "mend" takes the step that would mend it. */
export function ReadingLine() {
  const readings = useBench((s) => s.scope?.readings);
  const playing = useBench((s) => s.playing);
  const take = useBench((s) => s.take);
  const [turn, setTurn] = useState(0);
  const steps = useBench(shownLists);
  const reading = readings?.[turn % readings.length];
  const mender = reading?.mend ? menderOf(reading.mend, steps) : undefined;
  return (
    <View className="h-[44px] flex-row items-center border-b-stroke border-line bg-surface">
      <Pressable
        role="button"
        aria-label="Next reading"
        onPress={() => setTurn((t) => t + 1)}
        className="h-full min-w-0 flex-1 flex-row items-center gap-2 px-3"
      >
        {reading && !playing ? (
          <MarkIcon mark={reading.mark} colour={reading.mend ? 'var(--in-hand)' : 'var(--quiet)'} />
        ) : null}
        <View role="status" className="min-w-0 flex-1">
          <Txt numberOfLines={2} testID="reading" size={reading && reading.text.length > 44 ? 'sm' : 'base'}>
            {playing ? 'Readings are taken at rest, from the original.' : (reading?.text ?? 'Measuring the frame …')}
          </Txt>
        </View>
        {readings && !playing ? (
          <Txt size="sm" quiet>
            {(turn % readings.length) + 1}/{readings.length}
          </Txt>
        ) : null}
      </Pressable>
      {mender && !playing ? (
        <Pressable
          role="button"
          aria-label={`Mend with ${mender.step.kind}`}
          onPress={() => take(mender.step.id)}
          className="mr-1 h-[44px] justify-center px-1"
        >
          <Txt className="rounded border-stroke border-edge px-3 py-1">mend</Txt>
        </Pressable>
      ) : null}
    </View>
  );
}

/** The step that would mend a reading. A profile that is converted already leaves the rest to the range. */
function menderOf(kind: string, steps: StepLists): OwnedStep | undefined {
  const all = ownedSteps(steps);
  const found = all.find((o) => o.step.kind === kind);
  const converted = found && kind === 'convert' && !isIdle(found.step);
  return converted ? all.find((o) => o.step.kind === 'range') : found;
}
