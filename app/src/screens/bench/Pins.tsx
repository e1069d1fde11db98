import { View } from 'react-native';
import { useBench } from '../../state/bench';
import { Txt } from '../../ui/Txt';
import { neutralText } from './colourText';

/** Places that go on reading: a number on the picture for each. */
export function PinMarks({ width, height }: { width: number; height: number }) {
  const pins = useBench((s) => s.pins);
  return (
    <>
      {pins.map(({ id, area, reading }, i) => (
        <View
          key={id}
          testID={`pin-${i + 1}`}
          aria-label={`Pin ${i + 1}: ${reading ? neutralText(reading.after) : 'not read yet'}`}
          className="pointer-events-none absolute h-[22px] w-[22px] items-center justify-center rounded-full border-2 border-white bg-black/70"
          style={{ left: (area.x + area.width / 2) * width - 11, top: (area.y + area.height / 2) * height - 11 }}
        >
          <Txt size="sm" bold ink="text-white">
            {i + 1}
          </Txt>
        </View>
      ))}
    </>
  );
}
