import { View, type ViewStyle } from 'react-native';
import { HINTS, useHints, type HintName } from '../../state/hints';
import { IconButton } from '../../ui/Button';
import { Lightbulb, X } from '../../ui/icons';
import { Txt } from '../../ui/Txt';

const TEXTS: Record<HintName, string> = {
  trace: 'Grab the trace and move it: ▼ shadows, ● midtones, ▲ highlights.',
  chips: 'A tap takes a step in hand; a second tap opens what concerns it as a whole.',
  hold: 'Press and hold the picture to see it as recorded.',
};

/** A hint where something is touched for the first time; only one is shown at a time. */
export function Hint({ name, style }: { name: HintName; style: ViewStyle }) {
  const shown = useHints((s) => HINTS.find((h) => !s.done.includes(h)) === name);
  if (!shown) return null;
  return (
    <View
      role="note"
      testID={`hint-${name}`}
      className="absolute z-20 flex-row items-center rounded border-stroke border-edge bg-surface pl-3"
      style={[{ pointerEvents: 'none' }, style]}
    >
      <Lightbulb size={18} color="var(--ink)" aria-hidden />
      <Txt className="min-w-0 shrink py-2 pl-2">{TEXTS[name]}</Txt>
      <View style={{ pointerEvents: 'auto' }}>
        <IconButton label="Close this hint" icon={X} onPress={() => useHints.getState().finish(name)} />
      </View>
    </View>
  );
}
