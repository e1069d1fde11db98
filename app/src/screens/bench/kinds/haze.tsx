import { useState } from 'react';
import { View } from 'react-native';
import { useEngine } from '../../../engine/context';
import { useBench } from '../../../state/bench';
import { CloudFog, Pipette } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import type { ControlsProps, KindControls } from './types';
import { SPATIAL_HEIGHT } from './water';

/** Ways to set the colour of the haze. */
function HazeHead({ id, params }: ControlsProps) {
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

export const hazeControls: KindControls = {
  Head: HazeHead,
  height: SPATIAL_HEIGHT,
  picks: {
    air: { hint: 'Tap the haze, far away near the horizon', run: (picks, area) => picks.colourOf(area, 'air') },
  },
};
