import { View } from 'react-native';
import { Txt } from '../../../ui/Txt';
import { PixelTool } from './PixelTool';
import type { ControlsProps, KindControls } from './types';

/** Noise has pixel-sized detail, and is reduced in frames as they are decoded, not in small proxies during playback. */
function NoiseHead({ params }: ControlsProps) {
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <PixelTool />
      <Txt size="sm" quiet role="status" className="flex-1" numberOfLines={2}>
        {params.amount === 0
          ? '100 % takes out what is measured as noise.'
          : 'At rest and in exports. While it plays, as recorded.'}
      </Txt>
    </View>
  );
}

export const noiseControls: KindControls = { Head: NoiseHead };
