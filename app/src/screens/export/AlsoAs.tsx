import { useQuery } from '@tanstack/react-query';
import equal from 'fast-deep-equal';
import { View } from 'react-native';
import { DELIVERY_INFO, type Delivery } from '@inkavo/core/model/delivery';
import type { Preset } from '@inkavo/core/model/job';
import { api } from '../../api/client';
import { CheckRow } from '../../ui/Checkbox';
import { Txt } from '../../ui/Txt';

/** Summary of settings. */
const inWords = ({ codec, lines, aspect }: Delivery): string =>
  [DELIVERY_INFO[codec].title, lines ? `${lines} lines` : 'the size as filmed', ...(aspect ? [aspect] : [])].join(
    ' · ',
  );

/** Stored settings other than the current ones. */
export function useOtherPresets(value: Delivery): readonly Preset[] {
  const { data } = useQuery({ queryKey: ['presets'], queryFn: api.presets });
  return data?.filter((p) => !equal(p.delivery, value)) ?? [];
}

/** Stored settings for additional deliveries of the same clips; empty if there are none. `chosen`: ids of presets. */
export function AlsoAs({
  others,
  chosen,
  onChange,
}: {
  others: readonly Preset[];
  chosen: readonly string[];
  onChange(chosen: string[]): void;
}) {
  if (others.length === 0) return null;
  return (
    <View className="gap-2">
      <Txt bold>Also as</Txt>
      {others.map((p) => (
        <CheckRow
          key={p.id}
          label={`Also as ${p.name}`}
          on={chosen.includes(p.id)}
          onChange={(on) => onChange(on ? [...chosen, p.id] : chosen.filter((id) => id !== p.id))}
        >
          <View className="flex-1">
            <Txt numberOfLines={1}>{p.name}</Txt>
            <Txt size="sm" quiet numberOfLines={1}>
              {inWords(p.delivery)}
            </Txt>
          </View>
        </CheckRow>
      ))}
    </View>
  );
}
