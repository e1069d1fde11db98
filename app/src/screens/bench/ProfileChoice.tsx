import { useState } from 'react';
import { Pressable, View } from 'react-native';
import { PROFILES, type Profile, type TransferSpec } from '@inkavo/core/model/profile';
import { useBench } from '../../state/bench';
import { ChoiceList } from '../../ui/Choice';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { ChevronDown } from '../../ui/icons';

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
export function ProfileChoice({ id, params }: { id: string; params: Record<string, unknown> }) {
  const [open, setOpen] = useState(false);
  const { setParams } = useBench.getState();
  const profile = params.profile as Profile;
  return (
    <View className="h-[48px] justify-center px-2">
      <Pressable
        role="button"
        aria-label={`Profile: ${profile.name}. Change it`}
        onPress={() => setOpen(true)}
        className="min-h-[44px] flex-row items-center justify-between rounded border-stroke border-edge bg-surface px-3"
      >
        <Txt quiet>Recorded as</Txt>
        <View className="flex-row items-center gap-2">
          <Txt bold>{profile.name}</Txt>
          <ChevronDown size={18} color="var(--ink)" aria-hidden />
        </View>
      </Pressable>
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
