import { useState } from 'react';
import { View } from 'react-native';
import type { Profile } from '@inkavo/core/model/profile';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { OpenerField } from '../../../ui/OpenerField';
import { StepShelf } from '../BenchShelf';
import type { ControlsProps, KindControls } from './types';

const paramsOf = (item: ShelfItem): Record<string, unknown> =>
  item.kind === 'profile' ? { profile: item.profile } : {};

/** Chooses how the camera encoded light. */
function ProfileChoice({ id, params }: ControlsProps) {
  const [open, setOpen] = useState(false);
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
        <StepShelf title="Recorded as" id={id} kind="profile" paramsOf={paramsOf} onClose={() => setOpen(false)} />
      ) : null}
    </View>
  );
}

export const convertControls: KindControls = { Head: ProfileChoice };
