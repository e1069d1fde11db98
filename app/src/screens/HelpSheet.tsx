import { View } from 'react-native';
import { useHints } from '../state/hints';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Lightbulb } from '../ui/icons';
import { Sheet } from '../ui/Sheet';
import { useShortcutList } from '../ui/shortcuts';
import { Txt } from '../ui/Txt';

const LETTERS = [
  { value: 'on', title: 'On' },
  { value: 'off', title: 'Off' },
] as const;

/** Invisible gestures, for users who look for help. */
const TOUCH = [
  ['Tap the picture', 'reads a colour: neutral, pin, nudge'],
  ['Press and hold it', 'shows it as recorded'],
  ['Drag from its edge', 'brings the split'],
  ['Two fingers', 'magnify and move it'],
  ['Drag a trace', 'sets the step that moves it'],
  ['Drag a ruler', 'sets its number; further away from it, finer'],
  ['Place a region, then drag', 'moves the nearest hand of its shape, from wherever the finger is'],
  ['Tap the outline of a path', 'puts a point there; tap a point to take it in hand'],
  ['Hold and drag a chip', 'changes the order of steps'],
  ['Drag the play button', 'winds to a side'],
] as const;

/** Keys of the current screen, and gestures. */
export function HelpSheet({ onClose }: { onClose(): void }) {
  const { lists, letters, setLetters } = useShortcutList();
  const again = useHints((s) => s.again);
  return (
    <Sheet title="Help" onClose={onClose}>
      <Txt bold role="heading" aria-level={3}>
        Fingers
      </Txt>
      <View>
        {TOUCH.map(([what, does]) => (
          <Row key={what} left={what} right={does} />
        ))}
      </View>
      <Txt bold role="heading" aria-level={3}>
        A low sun, for example
      </Txt>
      <Txt quiet>
        Add Balance, let it act in a new large ellipse about the sun, its edge soft, and on its Light page choose
        bright; make it warmer. Add another Balance in a copy of that region with “All but that”, a little cooler. Add
        Corners below zero, and the edge is darker.
      </Txt>
      <Button
        title="Show the hints again"
        icon={Lightbulb}
        onPress={() => {
          again();
          onClose();
        }}
      />
      <Txt bold role="heading" aria-level={3}>
        Keys
      </Txt>
      <View testID="keys-list">
        {lists.flat().map((s) => (
          <Row key={s.keys} left={s.shown} right={s.what} />
        ))}
        <Row left="Tab, arrows" right="To the next control; arrows within a group" />
        <Row left="↑ ↓ on a ruler" right="To the next number; ← → change it, Shift finer, Enter types it" />
      </View>
      <Txt size="sm" quiet>
        Keys without Ctrl or Cmd
      </Txt>
      <Choice
        label="Keys without Ctrl or Cmd"
        value={letters ? 'on' : 'off'}
        options={LETTERS}
        onChange={(v) => setLetters(v === 'on')}
      />
    </Sheet>
  );
}

function Row({ left, right }: { left: string; right: string }) {
  return (
    <View className="flex-row gap-3 border-b-stroke border-line py-[5px]">
      <Txt bold className="w-[150px]">
        {left}
      </Txt>
      <Txt className="min-w-0 flex-1">{right}</Txt>
    </View>
  );
}
