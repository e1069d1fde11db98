import { Pressable, View } from 'react-native';
import { useScope } from '../../engine/scope';
import { MarkIcon } from '../../instruments/marks';
import { hueReading, markReading, zoneReading, type Reading } from '@inkavo/core/scopes/readings';
import { shownLists, useBench, type Pin } from '../../state/bench';
import { removePin } from '../../state/pins';
import { useShallow } from 'zustand/react/shallow';
import { type StepLists } from '@inkavo/core/model/lists';
import { ownedSteps } from '../../state/stepLists';
import { Txt } from '../../ui/Txt';
import { colourText, neutralText } from './colourText';

/**
 * A sentence with numbers about the frame; a tap shows the next one, "mend" takes the step that would mend it in hand.
 */
export function ReadingLine() {
  const scope = useScope();
  const playing = useBench((s) => s.playing);
  const pins = useBench((s) => s.pins);
  const view = useBench((s) => s.scopeView);
  const mark = useBench((s) => s.mark);
  const turn = useBench((s) => s.reading);
  const lines: Line[] = scope
    ? [
        ...(view === 'pad' ? [markReading(mark, scope.marks[mark])] : []),
        ...(view === 'histogram' ? [zoneReading(scope.zones)] : []),
        ...(scope.hues ? [hueReading(scope.hues)] : []),
        ...scope.readings,
        ...pins.map(pinLine),
      ]
    : [];
  const reading = lines[turn % Math.max(1, lines.length)];
  const text = reading && scope?.within ? `In the region: ${reading.text}` : reading?.text;
  const said = playing ? 'Readings are taken at rest, from the original.' : (text ?? 'Measuring the frame …');
  const count = lines.length && !playing ? ` ${(turn % lines.length) + 1}/${lines.length}` : '';
  const wanted = reading?.mend;
  const mender = useBench(useShallow((s) => (wanted ? menderOf(wanted, shownLists(s)) : NOBODY)));
  const mend = (): void => {
    const { take, set } = useBench.getState();
    take(mender.id!);
    if (reading.mark) set({ mark: reading.mark });
    // Selects the group with the number that mends it, if the step has several groups.
    const group = GROUPS[`${mender.kind} ${reading.mark}`];
    if (group) set({ group });
  };
  return (
    <View className="h-[44px] flex-row items-center border-b-stroke border-line bg-surface">
      <Pressable
        role="button"
        aria-label={`${said}${count}: Next reading`}
        onPress={() => useBench.getState().set({ reading: turn + 1 })}
        className="h-full min-w-0 flex-1 flex-row items-center gap-2 px-3"
      >
        {reading?.mark && !playing ? (
          <MarkIcon mark={reading.mark} colour={reading.mend ? 'var(--in-hand)' : 'var(--quiet)'} />
        ) : null}
        <View role="status" className="min-w-0 flex-1">
          <Txt numberOfLines={2} testID="reading" size={text && text.length > 44 ? 'sm' : 'base'}>
            {said}
          </Txt>
        </View>
        {lines.length && !playing ? (
          <Txt size="sm" quiet>
            {count}
          </Txt>
        ) : null}
      </Pressable>
      {mender.id && !playing ? <Act title="mend" label={`Mend with ${mender.kind}`} onPress={mend} /> : null}
      {reading?.pin && !playing ? (
        <Act title="unpin" label="Take this pin away" onPress={() => removePin(reading.pin!)} />
      ) : null}
    </View>
  );
}

function Act({ title, label, onPress }: { title: string; label: string; onPress(): void }) {
  return (
    <Pressable role="button" aria-label={label} onPress={onPress} className="mr-1 h-[44px] justify-center px-1">
      <Txt className="rounded border-stroke border-edge px-3 py-1">{title}</Txt>
    </Pressable>
  );
}

/** A sentence in the line: a reading, or a pin's values. */
type Line = Omit<Reading, 'mark'> & { mark?: Reading['mark']; pin?: string };

function pinLine({ id, reading }: Pin, i: number): Line {
  const text = reading
    ? `Pin ${i + 1}: ${colourText(reading.after)}, ${neutralText(reading.after)}; recorded ${colourText(reading.before)}, ${neutralText(reading.before)}.`
    : `Pin ${i + 1} …`;
  return { text, pin: id };
}

/** The group of a step's numbers for a reading about a mark. */
const GROUPS: Record<string, string> = {
  'range shadows': 'Ends',
  'range highlights': 'Ends',
  'range overall': 'Ends',
  'bands shadows': 'Shadows',
  'bands midtones': 'Midtones',
  'bands highlights': 'Highlights',
  'bands overall': 'Overall',
};

interface Mender {
  id?: string;
  kind?: string;
}
const NOBODY: Mender = {};

/** The step that would mend a reading. */
function menderOf(kind: string, steps: StepLists): Mender {
  const step = ownedSteps(steps).find((o) => o.step.kind === kind)?.step;
  return step ? { id: step.id, kind: step.kind } : NOBODY;
}
