import { View } from 'react-native';
import { useBench } from '../../state/bench';
import { Txt } from '../../ui/Txt';
import { toScreen } from './zoom';
import { neutralText } from './colourText';

/** Continuously read places: a numbered marker on the picture for each. */
export function PinMarks({ width, height }: { width: number; height: number }) {
  const pins = useBench((s) => s.pins);
  const view = useBench((s) => s.view);
  const placed = pins
    .map((pin, i) => ({ ...pin, i, on: toScreen(pin.area, view) }))
    .filter(({ on }) => on.x > 0 && on.x < 1 && on.y > 0 && on.y < 1);
  return (
    <>
      {placed.map(({ id, i, on, reading }) => (
        <View
          key={id}
          testID={`pin-${i + 1}`}
          aria-label={`Pin ${i + 1}: ${reading ? neutralText(reading.after) : 'not read yet'}`}
          className="pointer-events-none absolute h-[22px] w-[22px] items-center justify-center rounded-full border-2 border-white bg-black/70"
          style={{ left: (on.x + on.width / 2) * width - 11, top: (on.y + on.height / 2) * height - 11 }}
        >
          <Txt size="sm" bold ink="text-white">
            {i + 1}
          </Txt>
        </View>
      ))}
    </>
  );
}
