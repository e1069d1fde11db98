import { View } from 'react-native';
import { framing } from '@inkavo/core/model/delivery';
import { useBench } from '../../state/bench';
import { toScreen } from './zoom';

const percent = (share: number): `${number}%` => `${100 * share}%`;

/** Masks the parts that a crop to the chosen aspect ratio would remove; scopes still measure the whole picture. */
export function ShapeGuide() {
  const aspect = useBench((s) => s.guide);
  const facts = useBench((s) => s.opened?.clip.facts);
  const view = useBench((s) => s.view);
  if (!aspect || !facts) return null;
  const { crop } = framing(facts, { aspect, fit: 'crop', lines: null, enlarge: false, place: 0.5 });
  const { x, y, width, height } = toScreen(
    {
      ...{ x: crop.x / facts.width, y: crop.y / facts.height },
      ...{ width: crop.width / facts.width, height: crop.height / facts.height },
    },
    view,
  );
  const bands = [
    { left: 0, top: 0, right: 0, height: percent(Math.max(0, y)) },
    { left: 0, top: percent(y + height), right: 0, bottom: 0 },
    { left: 0, top: 0, bottom: 0, width: percent(Math.max(0, x)) },
    { left: percent(x + width), top: 0, bottom: 0, right: 0 },
  ] as const;
  return (
    <View
      role="img"
      aria-label={`What a cut to ${aspect} leaves`}
      className="pointer-events-none absolute inset-0 overflow-hidden"
    >
      {bands.map((band, i) => (
        <View key={i} className="absolute bg-black/90" style={band} />
      ))}
    </View>
  );
}
