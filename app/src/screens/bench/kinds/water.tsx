import { useState } from 'react';
import { View } from 'react-native';
import { water } from '@inkavo/core/steps/water';
import { useBench } from '../../../state/bench';
import { Button } from '../../../ui/Button';
import { ChoiceList } from '../../../ui/Choice';
import { Droplets, Gauge, Pipette, Scale } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import type { ControlsProps, KindControls } from './types';
import { DiveSheet } from '../DiveSheet';
import { PictureSheet } from '../PictureSheet';

const FITS = ['fitRed', 'fitBlue'] as const;

/** Ways to describe the water: its type, open water, something neutral, a dive log. */
function WaterHead({ id, params }: ControlsProps) {
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
        <PictureSheet title="Water" onClose={() => setSheet(null)}>
          {water.choices!.toReversed().map(({ key, label, options }) => (
            <View key={key} className="gap-2">
              <Txt bold>{label}</Txt>
              {key === 'type' ? <OwnLosses id={id} params={params} /> : null}
              <ChoiceList
                label={label}
                value={params[key] as string}
                options={options}
                onChange={(v) => setParams(id, { [key]: v })}
              />
            </View>
          ))}
        </PictureSheet>
      ) : null}
      {sheet === 'dive' ? <DiveSheet stepId={id} onClose={() => setSheet(null)} /> : null}
    </View>
  );
}

/** Losses measured in the clip stay when another type is chosen; here they are shown, and can be reset. */
function OwnLosses({ id, params }: ControlsProps) {
  if (FITS.every((key) => params[key] === 1)) return null;
  const [red, blue] = FITS.map((key) => `×${(params[key] as number).toFixed(2)}`);
  return (
    <View className="flex-row items-center gap-3">
      <Txt quiet className="flex-1">
        As measured in this clip: red {red} and blue {blue} of this type’s loss.
      </Txt>
      <Button
        title="The type’s own"
        onPress={() => useBench.getState().setParams(id, Object.fromEntries(FITS.map((key) => [key, 1])))}
      />
    </View>
  );
}

/** A head, groups and three rows. */
export const SPATIAL_HEIGHT = 288;

export const waterControls: KindControls = {
  Head: WaterHead,
  ownChoices: true,
  height: SPATIAL_HEIGHT,
  picks: { water: { hint: 'Tap open water, far away', run: (picks, area) => picks.colourOf(area, 'veil') } },
};
