import { useState, type ReactNode } from 'react';
import type { Camera, ListedClip } from '@inkavo/core/model/outing';
import type { Recording, SourceContent, DetectedCamera } from '@inkavo/core/model/source';
import { Button } from '../../ui/Button';
import { Trouble } from '../../ui/Note';
import { Txt } from '../../ui/Txt';
import { bytesText, isHere } from './bringing';
import { DetectedCameraCard } from './DetectedCameraCard';

const all = (content: Pick<SourceContent, 'cameras'>): Recording[] => content.cameras.flatMap((c) => c.recordings);

export interface ConfirmProps {
  content: Pick<SourceContent, 'cameras' | 'leftAlone' | 'freeBytes'>;
  /** The outing's cameras and clips. */
  cameras: readonly Camera[];
  clips: readonly ListedClip[];
  /** A picture of a recording. */
  picture(recording: Recording): ReactNode;
  /** Imports the selection; rejects with a message. */
  bring(wanted: readonly DetectedCamera[]): Promise<unknown>;
  onClose(): void;
}

/** Detected cameras: confirmed or corrected, then imported. */
export function ConfirmCameras({ content, cameras, clips, picture, bring: send, onClose }: ConfirmProps) {
  const [detected, setDetected] = useState(content.cameras);
  // Existing and unreadable files are excluded by default.
  const [left, setLeft] = useState<ReadonlySet<string>>(
    () =>
      new Set(
        all(content)
          .filter((r) => r.problem !== null || isHere(r, clips))
          .map((r) => r.paths[0]),
      ),
  );
  const [state, setState] = useState<{ busy: boolean; trouble?: string }>({ busy: false });
  const wanted = detected.map((c) => ({ ...c, recordings: c.recordings.filter((r) => !left.has(r.paths[0])) }));
  const recordings = wanted.flatMap((c) => c.recordings);
  const bytes = recordings.reduce((sum, r) => sum + r.bytes, 0);
  const unnamed = wanted.some((c) => c.recordings.length > 0 && !c.name.trim());
  const bring = async (): Promise<void> => {
    setState({ busy: true });
    try {
      await send(wanted);
      onClose();
    } catch (failure) {
      setState({ busy: false, trouble: (failure as Error).message });
    }
  };
  const take = (these: readonly Recording[], on: boolean): void =>
    setLeft((old) => {
      const next = new Set(old);
      for (const r of these)
        if (on) next.delete(r.paths[0]);
        else next.add(r.paths[0]);
      return next;
    });
  const names = [...new Set([...cameras.map((c) => c.name), ...detected.map((c) => c.name)])];
  const { leftAlone } = content;
  return (
    <>
      {detected.map((camera, i) =>
        camera.recordings.length === 0 ? null : (
          <DetectedCameraCard
            key={i}
            picture={picture}
            detected={detected}
            at={i}
            known={cameras.some((c) => c.name === camera.name.trim())}
            others={names.filter((n) => n !== camera.name)}
            left={left}
            here={(r) => isHere(r, clips)}
            onTake={take}
            onChange={setDetected}
          />
        ),
      )}
      {leftAlone > 0 ? (
        <Txt size="sm" quiet>
          {leftAlone} other file{leftAlone === 1 ? ' is' : 's are'} left alone.
        </Txt>
      ) : null}
      {state.trouble ? <Trouble text={state.trouble} /> : null}
      {bytes > content.freeBytes ? (
        <Trouble
          text={`There is no room for all of it on the server’s disk: ${bytesText(bytes)} are needed, ${bytesText(content.freeBytes)} can be used.`}
        />
      ) : null}
      <Button
        title={
          state.busy
            ? 'Queueing …'
            : recordings.length
              ? `Bring in ${recordings.length} · ${bytesText(bytes)}`
              : 'None is chosen'
        }
        look="strong"
        disabled={recordings.length === 0 || unnamed || state.busy}
        onPress={() => void bring()}
      />
    </>
  );
}
