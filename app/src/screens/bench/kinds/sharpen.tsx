import { View } from 'react-native';
import { useEngine } from '../../../engine/context';
import { useBench } from '../../../state/bench';
import { Txt } from '../../../ui/Txt';
import { PixelTool } from './PixelTool';
import type { ControlsProps, KindControls } from './types';

/** A radius below half a pixel of the screen is hardly to be seen. */
const SEEN = 0.5;

/** Whether the picture on the screen is too small for what a step does pixel by pixel. */
export function useTooFine(radius: number): boolean {
  const engine = useEngine();
  const view = useBench((s) => s.view);
  const across = useBench((s) => s.opened?.clip.facts.width ?? 1);
  // The size of the picture is known once a frame is shown in it.
  const shown = useBench((s) => s.atRest) && engine.current ? engine.current.width / view.width : across;
  // One to one there is no more to be seen.
  return radius * shown < SEEN && shown < across - 1;
}

export const TOO_FINE = 'Too fine to be seen at this size.';

/** Sharpening is judged pixel by pixel: says where the picture is too small for it, and shows it there. */
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
