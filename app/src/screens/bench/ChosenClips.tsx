import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ActivityIndicator } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import type { StepClips } from '@inkavo/core/model/outing';
import { api, type ClipOpened } from '../../api/client';
import { outingQuery } from '../../api/queries';
import { act } from '../../state/commands';
import { keeper } from '../../state/keeper';
import { Button } from '../../ui/Button';
import { CheckRow } from '../../ui/Checkbox';
import { Trouble } from '../../ui/Note';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { stepKind } from '@inkavo/core/steps';

/** Limits a step of the camera or the outing to some of its clips. */
export function ChosenClips({
  opened: { clip, outing },
  owner,
  step,
  onClose,
}: {
  opened: ClipOpened;
  owner: 'camera' | 'outing';
  step: Step;
  onClose(): void;
}) {
  const ownerId = owner === 'camera' ? clip.cameraId : outing.id;
  const { data, error } = useQuery(outingQuery(outing.id));
  const now = useQuery({
    queryKey: ['step-clips', ownerId, step.id],
    queryFn: async () => {
      // Local changes are sent first.
      await keeper.flush();
      return api.stepClips(owner, ownerId, step.id);
    },
    staleTime: 0,
    gcTime: 0,
  });
  const clips = data?.clips.filter((c) => owner === 'outing' || c.cameraId === clip.cameraId);
  const trouble = error ?? now.error;
  return (
    <Sheet title={`${step.label ?? stepKind(step.kind).title}: in which clips?`} onClose={onClose}>
      {trouble ? <Trouble text={trouble.message} /> : null}
      {clips && now.data ? (
        <Rows
          clips={clips}
          now={now.data}
          onKeep={async (next) => {
            const was = now.data;
            const target = { on: 'stepClips', owner, id: ownerId, step: step.id } as const;
            const done = await act({
              place: outing.id,
              what: `clips of ${step.label ?? stepKind(step.kind).title}`,
              done: [{ ...target, put: next }],
              undone: [{ ...target, put: was }],
            });
            if (!done) return;
            await keeper.changedElsewhere();
            onClose();
          }}
        />
      ) : trouble ? null : (
        <ActivityIndicator color="var(--ink)" accessibilityLabel="Fetching the clips" />
      )}
    </Sheet>
  );
}

function Rows({
  clips,
  now,
  onKeep,
}: {
  clips: readonly { id: string; name: string }[];
  now: StepClips;
  onKeep(next: StepClips): Promise<void>;
}) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(now.clipIds));
  const [busy, setBusy] = useState(false);
  const keep = (limited: boolean, ids: string[]): void => {
    setBusy(true);
    void onKeep({ limited, clipIds: ids }).finally(() => setBusy(false));
  };
  return (
    <>
      {clips.map((c) => (
        <CheckRow
          key={c.id}
          label={c.name}
          on={chosen.has(c.id)}
          onChange={(on) => setChosen(new Set(on ? [...chosen, c.id] : [...chosen].filter((id) => id !== c.id)))}
        >
          <Txt numberOfLines={1}>{c.name}</Txt>
        </CheckRow>
      ))}
      <Button
        title={
          chosen.size === 0 ? 'In none of them' : `Only in ${chosen.size === 1 ? 'this one' : `these ${chosen.size}`}`
        }
        look="strong"
        disabled={busy}
        onPress={() => keep(true, [...chosen])}
      />
      <Button
        title="In all, also those that come later"
        disabled={busy}
        onPress={() =>
          keep(
            false,
            clips.map((c) => c.id),
          )
        }
      />
    </>
  );
}
