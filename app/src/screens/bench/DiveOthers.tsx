import { useState } from 'react';
import { sameDive, type ClipDive } from '@inkavo/core/model/diveLog';
import { useBench } from '../../state/bench';
import { giveDive } from '../../state/giveDive';
import { Button } from '../../ui/Button';
import { CopyCheck } from '../../ui/icons';
import { useOtherClips } from './OtherClips';

/** Assigns a dive log to the camera's other clips recorded during the dive, by the camera's clock. */
export function DiveOthers({ dive }: { dive: ClipDive }) {
  const { cameraId, facts } = useBench((s) => s.opened!.clip);
  const [busy, setBusy] = useState(false);
  const covered = useOtherClips().flatMap((clip) => {
    const theirs = clip.cameraId === cameraId ? sameDive(dive, facts.recordedAt, clip.facts) : null;
    return theirs ? [{ clip, dive: theirs }] : [];
  });
  if (covered.length === 0) return null;
  const whom = covered.length === 1 ? covered[0].clip.name : `${covered.length} clips of this dive`;
  return (
    <Button
      title={`Give it to ${whom}`}
      icon={CopyCheck}
      disabled={busy}
      onPress={() => {
        setBusy(true);
        void giveDive(covered).finally(() => setBusy(false));
      }}
    />
  );
}
