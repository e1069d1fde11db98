import { View } from 'react-native';
import { useBench } from '../../state/bench';
import { HINTS, useHints, type HintName } from '../../state/hints';
import { IconButton } from '../../ui/Button';
import { Lightbulb, X } from '../../ui/icons';
import { Txt } from '../../ui/Txt';

const TEXTS: Record<HintName, string> = {
  trace: 'Grab the trace below and move it: ▼ shadows, ● midtones, ▲ highlights.',
  chips: 'A tap on a chip takes its step in hand; a second tap opens what concerns it as a whole.',
  hold: 'Press and hold the picture to see it as recorded.',
};

/** Hints for a first visit: one at a time, over the picture, without covering controls. */
export function Hints() {
  const name = useHints((s) => HINTS.find((h) => !s.done.includes(h)));
  const isLookedAt = useBench((s) => s.looking);
  if (!name || isLookedAt) return null;
  return (
    <View
      role="note"
      testID={`hint-${name}`}
      className="absolute bottom-2 left-2 right-2 z-20 mx-auto max-w-[520px] flex-row items-center rounded border-stroke border-edge bg-surface pl-3"
      style={{ pointerEvents: 'none' }}
    >
      <Lightbulb size={18} color="var(--ink)" aria-hidden />
      <Txt className="min-w-0 flex-1 py-2 pl-2">{TEXTS[name]}</Txt>
      <View style={{ pointerEvents: 'auto' }}>
        <IconButton label="Close this hint" icon={X} onPress={() => useHints.getState().finish(name)} />
      </View>
    </View>
  );
}
