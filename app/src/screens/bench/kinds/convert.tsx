import { useQuery } from '@tanstack/react-query';
import equal from 'fast-deep-equal';
import { useState } from 'react';
import { View } from 'react-native';
import type { Profile } from '@inkavo/core/model/profile';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { api } from '../../../api/client';
import { useBench } from '../../../state/bench';
import { Trouble } from '../../../ui/Note';
import { OpenerField } from '../../../ui/OpenerField';
import { BUILT_IN } from '../../shelf/shelfUse';
import { StepShelf } from '../BenchShelf';
import type { ControlsProps, KindControls } from './types';

const paramsOf = (item: ShelfItem): Record<string, unknown> =>
  item.kind === 'profile' ? { profile: item.profile } : {};
/** Maximum number of likely profiles shown, and their minimum likelihood. */
const MOST_LIKELY = 3;
const LIKELY_FROM = 0.08;

/** Chooses the camera's encoding; candidates are recognised from the footage first. */
function ProfileSheet({ id, profile, onClose }: { id: string; profile: Profile; onClose(): void }) {
  const clipId = useBench((s) => s.opened!.clip.id);
  const { data: shelf } = useQuery({ queryKey: ['shelf'], queryFn: api.shelf });
  const { data, error } = useQuery({
    // A new profile on the shelf may fit better than all others.
    queryKey: ['file-reading', clipId, shelf?.filter((i) => i.kind === 'profile').map((i) => i.id)],
    queryFn: async ({ signal }) => (await api.fileReading(clipId, signal)).recognition,
    enabled: shelf !== undefined,
  });
  const items = [...BUILT_IN, ...(shelf ?? [])].filter((i) => i.kind === 'profile');
  const found = data?.ranked
    .filter((r, i) => i < MOST_LIKELY && r.likelihood >= LIKELY_FROM)
    .flatMap(({ profile: likely, likelihood, reason }) => {
      const item = items.find((i) => equal(i.profile, likely));
      return item ? [{ item, likelihood, reason }] : [];
    });
  return (
    <StepShelf
      title="Recorded as"
      id={id}
      kind="profile"
      inUse={(item) => item.kind === 'profile' && equal(item.profile, profile)}
      likely={{ found: error ? [] : found, sure: data?.sure ?? false, unknown: data?.unknown ?? 0 }}
      paramsOf={paramsOf}
      onClose={onClose}
    >
      {error ? <Trouble text={`The footage could not be asked: ${error.message}`} /> : null}
    </StepShelf>
  );
}

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
      {open ? <ProfileSheet id={id} profile={profile} onClose={() => setOpen(false)} /> : null}
    </View>
  );
}

export const convertControls: KindControls = { Head: ProfileChoice };
