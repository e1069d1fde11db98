import { useState } from 'react';
import { View } from 'react-native';
import { PROFILES, type Profile, type TransferSpec } from '@inkavo/core/model/profile';
import { useBench } from '../../../state/bench';
import { ChoiceList } from '../../../ui/Choice';
import { OpenerField } from '../../../ui/OpenerField';
import { Sheet } from '../../../ui/Sheet';
import type { ControlsProps, KindControls } from './types';

const CURVES: Record<TransferSpec['kind'], string> = {
  bt709: 'BT.709',
  srgb: 'sRGB',
  bt1886: 'gamma 2.4',
  gamma: 'gamma',
  hlg: 'HLG',
  pq: 'PQ',
  logCamera: 'log curve',
};

const noteOf = ({ transfer, primaries }: Profile): string => {
  const gamut =
    typeof primaries === 'string'
      ? { bt709: 'BT.709', bt2020: 'BT.2020', p3d65: 'P3', ap1: 'AP1' }[primaries]
      : 'own primaries';
  return `${CURVES[transfer.kind]}, ${gamut}`;
};

/** Chooses how the camera encoded light. */
function ProfileChoice({ id, params }: ControlsProps) {
  const [open, setOpen] = useState(false);
  const { setParams } = useBench.getState();
  const profile = params.profile as Profile;
  return (
    <View className="h-[48px] justify-center px-2">
      <OpenerField
        title="Recorded as"
        value={profile.name}
        label={`Profile: ${profile.name}. Change it`}
        onPress={() => setOpen(true)}
      />
      {open ? (
        <Sheet title="Recorded as" onClose={() => setOpen(false)}>
          <ChoiceList
            label="Profile"
            value={profile.name}
            options={PROFILES.map((p) => ({ value: p.name, title: p.name, note: noteOf(p) }))}
            onChange={(name) => {
              setParams(id, { profile: PROFILES.find((p) => p.name === name) });
              setOpen(false);
            }}
          />
        </Sheet>
      ) : null}
    </View>
  );
}

export const convertControls: KindControls = { Head: ProfileChoice };
