import { useEffect, type ReactNode } from 'react';
import { View } from 'react-native';
import type { ListedClip } from '@inkavo/core/model/outing';
import { isRead, type ClipRun, type ClipRuns, type Named } from '../../state/clipRuns';
import { Button } from '../../ui/Button';
import { Progress } from '../../ui/Progress';
import { Txt } from '../../ui/Txt';

// Parts of the interface shared by readings of many clips.

export const many = (n: number): string => `${n} clip${n === 1 ? '' : 's'}`;

interface RunProps<Clip extends Named, Found extends Named> {
  runs: ClipRuns<Clip, Found>;
  outingId: string;
}

const countOf = ({ found, failed }: ClipRun<Named, Named>): number => found.length + failed.length;
const shareOf = (run: ClipRun<Named, Named>): number => countOf(run) / Math.max(1, run.clips.length);
const AWAY = 'The server cannot be reached: it goes on when it is back.';

/** Progress, with `text` as numbers; and failures. */
export function RunState<Clip extends Named, Found extends Named>({
  runs,
  outingId,
  text,
}: RunProps<Clip, Found> & { text: string }) {
  const run = runs.use((s) => s.runs[outingId]);
  const how = runs.use((s) => s.going[outingId]);
  return (
    <>
      <Txt role="status">{text}</Txt>
      <Progress label="Reading the clips" value={shareOf(run)} />
      {how ? <Txt quiet>This can be closed, and other work done meanwhile: reading goes on.</Txt> : null}
      {how === 'away' ? <Txt>{AWAY}</Txt> : null}
      {[...run.notes, ...run.failed.map(({ name, why }) => `${name}: ${why}`)].map((line) => (
        <Txt key={line} size="sm">
          {line}
        </Txt>
      ))}
    </>
  );
}

/** Actions: stop while running; otherwise those of the children, resume, read again, and dismiss, labelled `done`. */
export function RunActions<Clip extends Named, Found extends Named>({
  runs,
  outingId,
  done,
  onDropped,
  children,
}: RunProps<Clip, Found> & { done: string; onDropped(): void; children?: ReactNode }) {
  const run = runs.use((s) => s.runs[outingId]);
  const how = runs.use((s) => s.going[outingId]);
  if (how) return <Button title="Stop here" onPress={() => runs.stop(outingId)} />;
  return (
    <>
      {children}
      {isRead(run) ? null : (
        <Button
          title={`Go on: ${many(run.clips.length - countOf(run))} not read`}
          onPress={() => void runs.goOn(outingId)}
        />
      )}
      {run.failed.length ? (
        <Button
          title={`Read again: ${many(run.failed.length)} that failed`}
          onPress={() => runs.readFailedAgain(outingId)}
        />
      ) : null}
      <Button
        title={done}
        onPress={() => {
          runs.drop(outingId);
          onDropped();
        }}
      />
    </>
  );
}

export interface StripProps {
  outingId: string;
  /** All clips of the outing. */
  all: readonly ListedClip[];
  onOpen(): void;
}

/** A run in progress or not yet dismissed, below the clips of the outing; resumed after a reload. */
export function RunStrip<Clip extends Named, Found extends Named>({
  runs,
  outingId,
  title,
  text,
  onOpen,
}: RunProps<Clip, Found> & { title: string; text(run: ClipRun<Clip, Found>): string; onOpen(): void }) {
  const run = runs.use((s) => s.runs[outingId]);
  const how = runs.use((s) => s.going[outingId]);
  const brokenOff = run !== undefined && !run.stopped && !isRead(run);
  useEffect(() => {
    if (brokenOff) void runs.goOn(outingId);
  }, [brokenOff, runs, outingId]);
  if (!run) return null;
  return (
    <View role="region" aria-label={title} className="flex-none border-t-stroke border-line bg-surface">
      <View className="mx-auto w-full max-w-[1240px] flex-row items-center gap-3 px-3 py-2">
        <View className="min-w-0 flex-1 gap-1">
          <Txt bold>
            {title} on {many(run.clips.length)}
          </Txt>
          <Txt size="sm">{text(run)}</Txt>
          {how === 'away' ? <Txt size="sm">{AWAY}</Txt> : null}
          {how ? <Progress label="Reading the clips" value={shareOf(run)} /> : null}
        </View>
        <Button title="Look" onPress={onOpen} />
      </View>
    </View>
  );
}
