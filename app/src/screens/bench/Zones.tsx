import { View } from 'react-native';
import { useScope } from '../../engine/scope';
import { Txt } from '../../ui/Txt';

/** The eleven zones along the picture's lower edge: number, grey, and share of the frame. */
export function ZoneLegend() {
  const zones = useScope()?.zones;
  if (!zones) return null;
  return (
    <View className="pointer-events-none absolute bottom-0 left-0 right-0 flex-row" role="list" aria-label="Zones">
      {zones.map((share, zone) => {
        const grey = Math.round((zone / 10) * 255);
        const ink = zone > 5 ? 'text-black' : 'text-white';
        return (
          <View
            key={zone}
            role="listitem"
            aria-label={`Zone ${zone}: ${(share * 100).toFixed(0)} %`}
            className="min-w-0 flex-1 items-center border-t border-white"
            style={{ backgroundColor: `rgb(${grey},${grey},${grey})` }}
          >
            <Txt size="sm" bold ink={ink}>
              {zone}
            </Txt>
            <Txt size="sm" ink={ink}>
              {share > 0 && share < 0.005 ? '<1' : (share * 100).toFixed(0)}
            </Txt>
          </View>
        );
      })}
    </View>
  );
}

/** Legend of the two patterns, with the share of the frame of each. */
export function ClippingLegend() {
  const statistics = useScope()?.statistics;
  if (!statistics) return null;
  const rows = [
    { label: 'lost in the file', share: statistics.lostInFile, pattern: STRIPES },
    { label: 'lost by the grade', share: statistics.lostByGrade, pattern: CHECKS },
  ];
  // Not drawn over the picture: a single pixel is never pressed flat or out of range, only relative to others.
  const words = [
    { label: 'pressed flat', share: statistics.pressed },
    { label: 'beyond range in the file', share: statistics.outOfRange },
  ].filter(({ share }) => share >= 0.0005);
  return (
    <View className="pointer-events-none absolute bottom-1 left-1 gap-[2px] rounded bg-black/80 px-2 py-1">
      {rows.map(({ label, share, pattern }) => (
        <View key={label} className="flex-row items-center gap-2">
          <div style={{ width: 24, height: 12, background: pattern, backgroundSize: '12px 12px' }} />
          <Txt size="sm" ink="text-white">
            {(share * 100).toFixed(1)} % {label}
          </Txt>
        </View>
      ))}
      {words.map(({ label, share }) => (
        <Txt key={label} size="sm" ink="text-white">
          {(share * 100).toFixed(1)} % {label}
        </Txt>
      ))}
    </View>
  );
}

const STRIPES = 'repeating-linear-gradient(45deg, #fff 0 4px, #000 4px 8px)';
const CHECKS = 'repeating-conic-gradient(#fff 0 25%, #000 0 50%)';
