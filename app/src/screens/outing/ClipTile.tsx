import { Link } from 'expo-router';
import { memo } from 'react';
import { Pressable, View, type GestureResponderEvent } from 'react-native';
import { fps } from '@inkavo/core/model/facts';
import type { ListedClip } from '@inkavo/core/model/outing';
import { warningsOf } from '@inkavo/core/model/warnings';
import { thumbUrl } from '../../api/client';
import { Txt } from '../../ui/Txt';
import { timeText } from '../bench/timeText';
import { onSpace } from '../../ui/roving';
import { Thumb } from '../../ui/Thumb';
import { Check, CheckCheck, Share, TriangleAlert } from '../../ui/icons';

/** The upper right corner of a tile, which shows the ungraded picture. */
const CORNER = 'polygon(100% 0, 100% 62%, 65% 0)';
const ASPECT = 16 / 9;
const COVER = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'contain' } as const;

function stateText({ proxy, work, state }: ListedClip): string {
  if (proxy === 'failed') return 'no proxy';
  if (proxy === 'waiting') return 'making proxy';
  if (state === 'exported') return 'exported';
  if (state === 'checked') return 'checked';
  return work ? `${work} step${work === 1 ? '' : 's'}` : 'untouched';
}

/** State of a clip, as a mark and in words. */
function StateOf({ clip }: { clip: ListedClip }) {
  const Mark = { new: null, work: null, checked: CheckCheck, exported: Share }[clip.state];
  return (
    <View className="shrink-0 flex-row items-center gap-1">
      {Mark ? <Mark size={15} color="var(--ink)" aria-hidden /> : null}
      <Txt size="sm" quiet>
        {stateText(clip)}
      </Txt>
    </View>
  );
}

interface Props {
  clip: ListedClip;
  small: boolean;
  /** Undefined: a link; otherwise whether it is selected. */
  chosen?: boolean;
  /** `range`: everything from the last selected one to here. */
  onToggle(clip: ListedClip, range: boolean): void;
}

/** A clip as its frame, with the ungraded picture in a corner: a link to the bench, or selectable. */
export const ClipTile = memo(function ClipTile({ clip, small, chosen, onToggle }: Props) {
  const { facts } = clip;
  const [warning] = warningsOf(facts);
  const toggle = (): void => onToggle(clip, false);
  const tile = (
    <Pressable
      {...(chosen === undefined
        ? {}
        : {
            role: 'checkbox',
            'aria-checked': chosen,
            'aria-label': clip.name,
            // A key press arrives as the browser's own event.
            onPress: (e: GestureResponderEvent | KeyboardEvent) =>
              onToggle(clip, ('nativeEvent' in e ? (e.nativeEvent as unknown as MouseEvent) : e).shiftKey),
            onLongPress: () => onToggle(clip, true),
            ...onSpace(toggle),
          })}
      className={`w-full overflow-hidden rounded border-2 bg-surface active:opacity-70 ${chosen ? 'border-accent' : 'border-line'}`}
    >
      <View style={{ aspectRatio: ASPECT }} className="bg-surround">
        <Thumb src={thumbUrl(clip, true, 480)} style={COVER} />
        {clip.work ? <Thumb src={thumbUrl(clip, false, 480)} style={{ ...COVER, clipPath: CORNER }} /> : null}
        {chosen ? (
          <View className="absolute left-2 top-2 h-[28px] w-[28px] items-center justify-center rounded bg-accent">
            <Check size={20} color="var(--on-accent)" aria-hidden />
          </View>
        ) : null}
      </View>
      <View className={small ? 'px-2 py-1' : 'gap-[2px] px-3 py-2'}>
        <View className="flex-row items-baseline justify-between gap-2">
          <Txt bold size={small ? 'sm' : 'base'} numberOfLines={1} className="shrink">
            {clip.name}
          </Txt>
          {small ? null : (
            <Txt>{timeText((clip.outFrame - clip.inFrame + 1) / (clip.retime?.factor ?? 1), fps(facts))}</Txt>
          )}
        </View>
        <View className="flex-row items-center justify-between gap-2">
          {small ? null : (
            <Txt size="sm" quiet numberOfLines={1} className="shrink">
              {facts.width}×{facts.height} · {facts.depth} bit · {Number(fps(facts).toFixed(2))} fps
            </Txt>
          )}
          <StateOf clip={clip} />
          {small && warning ? <TriangleAlert size={15} color="var(--warn)" aria-label={warning} /> : null}
        </View>
        {warning && !small ? (
          <View className="flex-row items-center gap-2 pt-[2px]">
            <TriangleAlert size={16} color="var(--warn)" aria-hidden />
            <Txt size="sm" className="shrink">
              {warning}
            </Txt>
          </View>
        ) : null}
      </View>
    </Pressable>
  );
  return chosen === undefined ? (
    <Link href={`/clip/${clip.id}`} asChild>
      {tile}
    </Link>
  ) : (
    tile
  );
});
