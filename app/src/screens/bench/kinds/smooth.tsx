import { View } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { SeenNoise } from '@inkavo/core/reading/noiseAfter';
import { limitsFor } from '@inkavo/core/steps/smooth';
import { api } from '../../../api/client';
import { Txt } from '../../../ui/Txt';
import { FindTool, useFinding } from './finding';
import { PixelTool } from './PixelTool';
import { TOO_FINE, useTooFine } from './sharpen';
import type { ControlsProps, KindControls } from './types';

/** Less than half a code value of 8 bits is none. */
const NONE = 0.5 / 255;

/** What a step sees, but for what acts in a region alone. */
function before(steps: readonly Step[], id: string): Step[] {
  const at = steps.findIndex((s) => s.id === id);
  return steps.slice(0, Math.max(0, at)).filter((s) => s.on && !s.region);
}

const inCode = (v: number): string => (255 * v).toFixed(1);

function said(noise: SeenNoise | null): string {
  if (!noise) return 'Noise cannot be told here: it takes frames before and after this one.';
  const measured = `${inCode(noise.light)} of 255 in the light, ${inCode(noise.colour)} in the colour`;
  return Math.max(noise.light, noise.colour) < NONE ? `Hardly any noise (${measured}).` : `Noise: ${measured}.`;
}

/** Its limits follow from the noise that is measured in this frame. */
function SmoothHead({ id, params }: ControlsProps) {
  const tooFine = useTooFine(params.radius as number);
  const finding = useFinding('Measuring the noise …', async ({ opened, lists, frame, setParams }, signal) => {
    const noise = await api.noise(opened.clip.id, { steps: before(joined(lists), id), frame }, signal);
    if (noise && Math.max(noise.light, noise.colour) >= NONE) setParams(id, limitsFor(noise));
    return said(noise);
  });
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <FindTool label="Find how strong the noise of this frame is" finding={finding} />
      <PixelTool />
      <Txt size="sm" quiet role="status" className="flex-1" numberOfLines={3}>
        {[finding.note, tooFine ? TOO_FINE : ''].filter(Boolean).join(' ')}
      </Txt>
    </View>
  );
}

export const smoothControls: KindControls = { Head: SmoothHead };
