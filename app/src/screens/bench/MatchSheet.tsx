import { useEffect, useRef, useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import type { Match } from '@inkavo/core/match/matchTo';
import type { ListedClip } from '@inkavo/core/model/outing';
import { api, thumbUrl } from '../../api/client';
import { useBench } from '../../state/bench';
import { showBeside } from '../../state/keptFrame';
import { tell } from '../../state/messages';
import { beforeMatch, withMatch } from '../../state/stepLists';
import { Sheet } from '../../ui/Sheet';
import { Thumb } from '../../ui/Thumb';
import { Txt } from '../../ui/Txt';
import { OtherClips } from './OtherClips';

const PICTURE = { width: 112, height: 63, objectFit: 'cover', display: 'block', borderRadius: 4 } as const;
const percent = (v: number): string => `${Math.round(100 * v)} %`;

/** Results of a match without steps. */
const nothing = ({ verdict, shared }: Match, name: string): string =>
  verdict === 'alike'
    ? `This clip and ${name} are as alike as what they show lets them be: ${percent(shared[0])} of their colours have their like in the other. No step was added.`
    : `This clip and ${name} show different things: even with steps only ${percent(shared[1])} of their colours would have their like in the other, so colours alone do not say what should become what. No step was added; a clip of the same place works best.`;

/** What was done, with numbers. */
const done = ({ verdict, shared }: Match, name: string): string =>
  `${percent(shared[1])} of the colours have their like in ${name} now, ${percent(shared[0])} before. ${
    verdict === 'unsure'
      ? 'That is not sure, so the steps act by part: look, and change their strength.'
      : 'They are ordinary steps: change or weaken them.'
  }`;

/**
 * Matches this clip to another one of the outing, with ordinary steps after its own; then both are shown side by side.
 */
export function MatchSheet({ onClose }: { onClose(): void }) {
  const id = useBench((s) => s.opened!.clip.id);
  const [busy, setBusy] = useState<string | null>(null);
  /** Result for the last chosen clip, shown in its row. */
  const [said, setSaid] = useState<{ id: string; text: string } | null>(null);
  const running = useRef<AbortController | null>(null);
  useEffect(() => () => running.current?.abort(), []);

  const match = async (to: ListedClip): Promise<void> => {
    running.current?.abort();
    const controller = (running.current = new AbortController());
    setBusy(to.id);
    setSaid(null);
    try {
      const asked = useBench.getState().lists;
      const found = await api.match(id, beforeMatch(asked), to.id, controller.signal);
      if (controller.signal.aborted) return;
      if (found.steps.length === 0) return setSaid({ id: to.id, text: nothing(found, to.name) });
      const { lists, setClipSteps, take } = useBench.getState();
      const clip = withMatch(lists.clip, found.steps);
      setClipSteps(clip);
      take(clip[clip.length - 1].id);
      tell({ key: 'match', text: done(found, to.name), fades: true });
      // The steps are kept even if the other clip's picture is unavailable.
      await api.thumb(to).then(
        (blob) => controller.signal.aborted || showBeside(blob, to.name),
        () => undefined,
      );
      if (!controller.signal.aborted) onClose();
    } catch (failure) {
      if (!controller.signal.aborted) setSaid({ id: to.id, text: (failure as Error).message });
    } finally {
      if (running.current === controller) setBusy(null);
    }
  };

  return (
    <Sheet title="Match to another clip" onClose={onClose}>
      <Txt>Choose the clip that this one should look like. It is compared as its own steps leave it.</Txt>
      <OtherClips
        row={(clip) => (
          <Pressable
            key={clip.id}
            role="button"
            aria-label={`Match to ${clip.name}`}
            aria-busy={busy === clip.id}
            onPress={() => void match(clip)}
            className="min-h-[76px] flex-row items-center gap-3 rounded border-stroke border-edge bg-surface p-[6px] active:opacity-60"
          >
            <Thumb src={thumbUrl(clip, true)} style={PICTURE} />
            <View className="min-w-0 flex-1">
              <Txt numberOfLines={1}>{clip.name}</Txt>
              {busy === clip.id ? (
                <Txt size="sm" quiet role="status">
                  Comparing both clips …
                </Txt>
              ) : null}
              {said?.id === clip.id ? (
                <Txt size="sm" role="status">
                  {said.text}
                </Txt>
              ) : null}
            </View>
            {busy === clip.id ? <ActivityIndicator color="var(--ink)" /> : null}
          </Pressable>
        )}
      />
    </Sheet>
  );
}
