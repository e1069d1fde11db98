import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ScrollView, View } from 'react-native';
import type { Delivery } from '@inkavo/core/model/delivery';
import { api } from '../../api/client';
import { tellTrouble } from '../../state/messages';
import { Button, IconButton } from '../../ui/Button';
import { Field } from '../../ui/Field';
import { Plus, X } from '../../ui/icons';

/** Named settings, available on every device: a tap applies them. */
export function PresetRow({ value, onTake }: { value: Delivery; onTake(delivery: Delivery): void }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['presets'], queryFn: api.presets });
  const [naming, setNaming] = useState<string | null>(null);
  const act = async (work: Promise<unknown>): Promise<void> => {
    try {
      await work;
      setNaming(null);
    } catch (error) {
      tellTrouble('presets', (error as Error).message);
    }
    await client.invalidateQueries({ queryKey: ['presets'] });
  };
  const same = (delivery: Delivery): boolean => JSON.stringify(delivery) === JSON.stringify(value);
  const taken = data?.find((p) => same(p.delivery));
  return (
    <View className="gap-2">
      <ScrollView horizontal showsHorizontalScrollIndicator={false} contentContainerClassName="gap-2">
        {data?.map((p) => (
          <Button
            key={p.id}
            title={p.name}
            look={p === taken ? 'strong' : 'plain'}
            aria-pressed={p === taken}
            onPress={() => onTake(p.delivery)}
          />
        ))}
        {taken ? (
          <IconButton
            label={`Forget the settings ${taken.name}`}
            icon={X}
            onPress={() => void act(api.forgetPreset(taken.id))}
          />
        ) : (
          <Button title="Keep these settings" icon={Plus} look="bare" onPress={() => setNaming('')} />
        )}
      </ScrollView>
      {naming !== null ? (
        <View className="flex-row items-end gap-2">
          <View className="flex-1">
            <Field label="Name of these settings" value={naming} autoFocus onChange={setNaming} />
          </View>
          <Button
            title="Keep"
            look="strong"
            disabled={!naming.trim()}
            onPress={() => void act(api.keepPreset(naming.trim(), value))}
          />
        </View>
      ) : null}
    </View>
  );
}
