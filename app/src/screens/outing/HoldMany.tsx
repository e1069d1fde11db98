import { useRouter } from 'expo-router';
import { Pressable } from 'react-native';
import type { ListedClip } from '@inkavo/core/model/outing';
import { holdRuns, type Checked, type HoldRun } from '../../state/holdRuns';
import { openAt } from '../../state/lastView';
import { Button } from '../../ui/Button';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';
import { many, RunActions, RunState, RunStrip, type StripProps } from './runParts';

const TITLE = 'Hold check';

function progressText({ clips, found, failed }: HoldRun): string {
  const off = found.filter((c) => c.troubles.length).length;
  const good = found.length - off;
  return `${found.length + failed.length} of ${clips.length} checked: ${good} ${good === 1 ? 'holds' : 'hold'}, ${off} ${off === 1 ? 'does' : 'do'} not.`;
}

/** A clip whose grade does not hold: its first trouble; a tap opens the bench at its worst frame. */
function NotHolding({ checked, stale, onOpen }: { checked: Checked; stale: boolean; onOpen(): void }) {
  const router = useRouter();
  const { id, name, troubles } = checked;
  const [first, ...others] = troubles;
  return (
    <Pressable
      role="link"
      aria-label={`${name}: ${first.text} Open it there`}
      onPress={() => {
        openAt(id, first.worstFrame);
        onOpen();
        router.push(`/clip/${id}`);
      }}
      className="min-h-[48px] rounded border-stroke border-edge bg-surface px-3 py-2 active:opacity-60"
    >
      <Txt bold>{name}</Txt>
      <Txt>
        {first.text}
        {others.length ? ` And ${others.length} more.` : ''}
      </Txt>
      {stale ? (
        <Txt size="sm" ink="text-warn">
          Its steps have changed since it was checked.
        </Txt>
      ) : null}
    </Pressable>
  );
}

/**
 * A hold check of several clips, which lists those that do not hold. Mends are shown on the bench. A run in progress,
 * or not yet dismissed, is shown instead of a new one.
 */
export function HoldMany({
  outingId,
  clips,
  all,
  onClose,
}: {
  outingId: string;
  /** The selected clips. */
  clips: readonly ListedClip[];
  /** All clips of the outing. */
  all: readonly ListedClip[];
  onClose(): void;
}) {
  const run = holdRuns.use((s) => s.runs[outingId]);
  if (!run)
    return (
      <Sheet title={TITLE} onClose={onClose}>
        <Txt>
          Does each grade hold over its whole clip? Every clip is measured as graded; those where something is lost,
          dull, garish or drifts are listed.
        </Txt>
        <Button
          title={`Check ${many(clips.length)}`}
          look="strong"
          onPress={() =>
            holdRuns.begin(
              outingId,
              clips.map(({ id, name }) => ({ id, name })),
            )
          }
        />
      </Sheet>
    );
  const lookNow = new Map(all.map((c) => [c.id, c.look]));
  const off = run.found.filter((c) => c.troubles.length && lookNow.has(c.id));
  return (
    <Sheet title={TITLE} onClose={onClose}>
      <RunState runs={holdRuns} outingId={outingId} text={progressText(run)} />
      {off.map((c) => (
        <NotHolding key={c.id} checked={c} stale={lookNow.get(c.id) !== c.look} onOpen={onClose} />
      ))}
      <RunActions runs={holdRuns} outingId={outingId} done="Done" onDropped={onClose} />
    </Sheet>
  );
}

/** A hold check of several clips in progress, or not yet dismissed, shown below the clips. */
export function HoldStrip({ outingId, onOpen }: StripProps) {
  return <RunStrip runs={holdRuns} outingId={outingId} title={TITLE} text={progressText} onOpen={onOpen} />;
}
