import { Pressable, View } from 'react-native';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import { useEngine } from '../../engine/context';
import { useBench, type Spot } from '../../state/bench';
import { Txt } from '../../ui/Txt';
import { addPin } from '../../state/pins';
import { colourText, neutralText, percentText } from './colourText';
import { X } from '../../ui/icons';

/** Values of the touched spot, and actions. */
export function SpotBubble({
  spot,
  place: on,
  width,
  height,
}: {
  spot: Spot;
  /** Its position on the screen. */
  place: Area;
  width: number;
  height: number;
}) {
  const engine = useEngine();
  const { set } = useBench.getState();
  const { area, reading, note } = spot;
  // Away from the finger: below the spot in the upper half, above it in the lower half.
  const below = on.y + on.height / 2 < 0.5;
  const place = below ? { top: (on.y + on.height) * height + 8 } : { bottom: (1 - on.y) * height + 8 };
  const left = (on.x + on.width / 2) * width < width / 2;
  return (
    <View
      role="status"
      className="absolute max-w-[94%] rounded bg-black/85 p-2"
      style={{ ...place, ...(left ? { left: 6 } : { right: 6 }) }}
    >
      <View className="flex-row items-center gap-2">
        <View className="shrink">
          {reading ? (
            <>
              <Txt ink="text-white" bold>
                {colourText(reading.after)}
              </Txt>
              <Txt size="sm" ink="text-white">
                {percentText(reading.after)} · {neutralText(reading.after)}
              </Txt>
              <Txt size="sm" ink="text-white">
                recorded {colourText(reading.before)} · {percentText(reading.before)}
              </Txt>
            </>
          ) : null}
          {note ? (
            <Txt size="sm" bold ink={note.refused ? 'text-[#ffb4a6]' : 'text-[#d7f75b]'}>
              {note.text}
            </Txt>
          ) : null}
        </View>
        <Pressable
          role="button"
          aria-label="Close the reading"
          onPress={() => set({ spot: null })}
          className="h-[44px] w-[44px] items-center justify-center"
        >
          <X size={18} color="#fff" aria-hidden />
        </Pressable>
      </View>
      {!note && reading ? (
        <View className="mt-1 flex-row gap-2">
          <Offer title="This is neutral" strong onPress={() => void engine.current?.picks.neutral(area)} />
          {isGrey(reading.after) ? (
            <Offer title="Grey card" onPress={() => void engine.current?.picks.greyCard(area)} />
          ) : null}
          <Offer title="Pin" onPress={() => addPin(area)} />
        </View>
      ) : null}
    </View>
  );
}

/** A grey card is neither black nor white, and not coloured. */
const isGrey = (rgb: readonly number[]): boolean =>
  Math.min(...rgb) > 0.08 && Math.max(...rgb) < 0.92 && Math.max(...rgb) - Math.min(...rgb) < 0.12;

function Offer({ title, strong, onPress }: { title: string; strong?: boolean; onPress(): void }) {
  return (
    <Pressable
      role="button"
      onPress={onPress}
      className={`min-h-[44px] grow items-center justify-center rounded px-3 ${strong ? 'bg-accent' : 'border border-white'}`}
    >
      <Txt bold={strong} ink={strong ? 'text-on-accent' : 'text-white'}>
        {title}
      </Txt>
    </Pressable>
  );
}
