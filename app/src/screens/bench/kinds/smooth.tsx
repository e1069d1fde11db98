import { View } from 'react-native';
import { joined } from '@inkavo/core/model/lists';
import { noiseInWords, type PredictedNoise } from '@inkavo/core/reading/noiseAfter';
import { limitsFor } from '@inkavo/core/steps/smooth';
import { api } from '../../../api/client';
import { Txt } from '../../../ui/Txt';
import { FindTool, stepsBefore, useFinding } from './finding';
import { PixelTool, TOO_FINE, useTooFine } from './PixelTool';
import type { ControlsProps, KindControls } from './types';

/** Less than half an 8-bit code value counts as none. */
const NONE = 0.5 / 255;

function said(noise: PredictedNoise | null): string {
  if (!noise) return 'Noise cannot be told here: it takes frames before and after this one.';
  const measured = noiseInWords(noise);
  return Math.max(noise.light, noise.colour) < NONE ? `Hardly any noise (${measured}).` : `Noise: ${measured}.`;
}

/** Sets its limits from the noise measured in this frame. */
function SmoothHead({ id, params }: ControlsProps) {
  const tooFine = useTooFine(params.radius as number);
  const finding = useFinding('Measuring the noise …', async ({ opened, lists, frame, setParams }, signal) => {
    const noise = await api.noise(opened.clip.id, { steps: stepsBefore(joined(lists), id), frame }, signal);
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
