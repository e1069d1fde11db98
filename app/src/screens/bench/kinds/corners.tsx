import { View } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import { joined } from '@inkavo/core/model/lists';
import type { CornersNotFound, FoundCorners } from '@inkavo/core/reading/findCorners';
import { stepKind } from '@inkavo/core/steps';
import { api } from '../../../api/client';
import { Txt } from '../../../ui/Txt';
import { FindTool, stepsBefore, useFinding } from './finding';
import type { ControlsProps, KindControls } from './types';
import { SPATIAL_HEIGHT } from './water';

const WHY: Record<CornersNotFound['why'], string> = {
  still: 'The camera hardly moves: it cannot be told what is lens and what is scene.',
  few: 'Too little can be followed through this clip.',
  unsure: 'What moves through the picture does not agree: nothing was changed.',
};

const said = (found: FoundCorners): string => {
  if (!found.found) return WHY[found.why];
  if (found.amount === 0) return `The light is even, by ${found.places} places.`;
  return `${Math.round(100 * found.amount)} ± ${Math.max(1, Math.round(100 * found.error))} % dark, by ${found.places} places.`;
};

/** Pointwise steps before this one. */
const before = (steps: readonly Step[], id: string): Step[] =>
  stepsBefore(steps, id).filter((s) => !stepKind(s.kind).formula);

/** Measures the lens's vignetting from moving parts of the picture. */
function CornersHead({ id }: ControlsProps) {
  const finding = useFinding('Following the scene …', async ({ opened, lists, setParams }, signal) => {
    const found = await api.corners(opened.clip.id, before(joined(lists), id), signal);
    if (found.found) setParams(id, { amount: found.amount, begins: found.begins, oval: 0, centreX: 0, centreY: 0 });
    return said(found);
  });
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <FindTool label="Find how dark the lens leaves the corners" finding={finding} />
      <Txt size="sm" quiet role="status" className="flex-1" numberOfLines={2}>
        {finding.note || 'From what moves through the picture.'}
      </Txt>
    </View>
  );
}

export const cornersControls: KindControls = { Head: CornersHead, height: SPATIAL_HEIGHT };
