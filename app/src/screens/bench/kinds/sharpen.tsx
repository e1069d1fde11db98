import { View } from 'react-native';
import { Txt } from '../../../ui/Txt';
import { PixelTool, TOO_FINE, useTooFine } from './PixelTool';
import type { ControlsProps, KindControls } from './types';

/** Sharpening has pixel-sized effects: tells when the picture is too small for it, and switches to 1:1. */
function SharpenHead({ params }: ControlsProps) {
  const tooFine = useTooFine(params.radius as number);
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <PixelTool />
      <Txt size="sm" quiet role="status" className="flex-1" numberOfLines={2}>
        {tooFine ? TOO_FINE : ''}
      </Txt>
    </View>
  );
}

export const sharpenControls: KindControls = { Head: SharpenHead };
