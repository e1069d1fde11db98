import { useState } from 'react';
import { View } from 'react-native';
import { water } from '@inkavo/core/steps/water';
import { useEngine } from '../../engine/context';
import { useBench } from '../../state/bench';
import { ChoiceList } from '../../ui/Choice';
import { CloudFog, Droplets, Gauge, Pipette, Scale } from '../../ui/icons';
import { Sheet } from '../../ui/Sheet';
import { Tool } from '../../ui/Tool';
import { Txt } from '../../ui/Txt';
import { DiveSheet } from './DiveSheet';

/** Ways to tell a water step about its water: its type, open water, something neutral, a dive log. */
export function WaterHead({ id, params }: { id: string; params: Record<string, unknown> }) {
  const picking = useBench((s) => s.picking);
  const dive = useBench((s) => s.dive);
  const [sheet, setSheet] = useState<'type' | 'dive' | null>(null);
  const { set, setParams } = useBench.getState();
  const pick = (what: 'water' | 'neutral') => () => set({ picking: picking === what ? null : what, spot: null });
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <Tool label="Pick open water" short="Open" icon={Droplets} on={picking === 'water'} onPress={pick('water')} />
      <Tool label="Pick neutral" short="Pick" icon={Pipette} on={picking === 'neutral'} onPress={pick('neutral')} />
      <Tool
        label="Type of water and distance"
        short={String(params.type).replace('C', 'Coast ')}
        icon={Scale}
        on={sheet === 'type'}
        onPress={() => setSheet('type')}
      />
      <Tool
        label={dive ? `Dive log: ${dive.log.name}` : 'Dive log'}
        short="Log"
        icon={Gauge}
        on={sheet === 'dive'}
        onPress={() => setSheet('dive')}
      />
      {sheet === 'type' ? (
        <Sheet title="Water" onClose={() => setSheet(null)}>
          {water.choices!.toReversed().map(({ key, label, options }) => (
            <View key={key} className="gap-2">
              <Txt bold>{label}</Txt>
              <ChoiceList
                label={label}
                value={params[key] as string}
                options={options}
                onChange={(v) => setParams(id, { [key]: v })}
              />
            </View>
          ))}
        </Sheet>
      ) : null}
      {sheet === 'dive' ? <DiveSheet stepId={id} onClose={() => setSheet(null)} /> : null}
    </View>
  );
}

/** Ways to tell a haze step the colour of the haze. */
export function HazeHead({ id, params }: { id: string; params: Record<string, unknown> }) {
  const engine = useEngine();
  const picking = useBench((s) => s.picking === 'air');
  const [note, setNote] = useState('');
  const { set } = useBench.getState();
  const find = async (): Promise<void> => {
    const found = await engine.current?.picks.airlight(id);
    setNote(found ? 'Found in this frame.' : 'No haze is to be seen in this frame.');
  };
  const colour = ['airRed', 'airGreen', 'airBlue'].map((k) => Math.round(255 * (params[k] as number)));
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <Tool
        label="Pick the colour of the haze"
        short="Pick"
        icon={Pipette}
        on={picking}
        onPress={() => set({ picking: picking ? null : 'air', spot: null })}
      />
      <Tool label="Find the haze in this frame" short="Find" icon={CloudFog} on={false} onPress={() => void find()} />
      <View
        role="img"
        aria-label={`Colour of the haze: ${colour.join(', ')}`}
        className="h-[36px] w-[36px] rounded border-stroke border-edge"
        style={{ backgroundColor: `rgb(${colour.join(',')})` }}
      />
      <Txt size="sm" quiet role="status" className="flex-1" numberOfLines={2}>
        {note}
      </Txt>
    </View>
  );
}
