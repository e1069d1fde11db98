import { Link } from 'expo-router';
import { Pressable, View } from 'react-native';
import { fps } from '@inkavo/core/model/facts';
import type { Clip } from '@inkavo/core/model/outing';
import { warningsOf } from '@inkavo/core/model/warnings';
import { thumbUrl } from '../../api/client';
import { Txt } from '../../ui/Txt';
import { isIdle } from '../../state/stepLists';
import { timeText } from '../bench/timeText';
import { onSpace } from '../../ui/roving';
import { Thumb } from '../../ui/Thumb';
import { Check, TriangleAlert } from '../../ui/icons';

/** The upper right corner of a tile, in which the untouched picture shows. */
const CORNER = 'polygon(100% 0, 100% 62%, 65% 0)';
const ASPECT = 16 / 9;

/** Steps that do something. */
const workDone = (clip: Clip): number => clip.steps.filter((s) => !isIdle(s)).length;

/** A clip as its frame, with the untouched picture in a corner: a link to the bench, or a choice among several. */
export function ClipTile({ clip, chosen, onToggle }: { clip: Clip; chosen?: boolean; onToggle(): void }) {
  const { facts } = clip;
  const done = workDone(clip);
  const warnings = warningsOf(facts);
  const state = done ? `${done} step${done === 1 ? '' : 's'}` : 'untouched';
  const cover = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'contain' } as const;
  const tile = (
    <Pressable
      {...(chosen === undefined
        ? {}
        : { role: 'checkbox', 'aria-checked': chosen, onPress: onToggle, ...onSpace(onToggle) })}
      className={`w-full overflow-hidden rounded border-2 bg-surface active:opacity-70 ${chosen ? 'border-accent' : 'border-line'}`}
    >
      <View style={{ aspectRatio: ASPECT }} className="bg-surround">
        <Thumb src={thumbUrl(clip, true, 480)} style={cover} />
        {done ? <Thumb src={thumbUrl(clip, false, 480)} style={{ ...cover, clipPath: CORNER }} /> : null}
        {chosen ? (
          <View className="absolute left-2 top-2 h-[28px] w-[28px] items-center justify-center rounded bg-accent">
            <Check size={20} color="var(--on-accent)" aria-hidden />
          </View>
        ) : null}
      </View>
      <View className="gap-[2px] px-3 py-2">
        <View className="flex-row items-baseline justify-between gap-2">
          <Txt bold numberOfLines={1} className="shrink">
            {clip.name}
          </Txt>
          <Txt>{timeText(clip.outFrame - clip.inFrame + 1, fps(facts))}</Txt>
        </View>
        <View className="flex-row items-baseline justify-between gap-2">
          <Txt size="sm" quiet numberOfLines={1} className="shrink">
            {facts.width}×{facts.height} · {facts.depth} bit · {Number(fps(facts).toFixed(2))} fps
          </Txt>
          <Txt size="sm" quiet>
            {clip.proxy === 'failed' ? 'no proxy' : clip.proxy === 'waiting' ? 'making proxy' : state}
          </Txt>
        </View>
        {warnings.length > 0 ? (
          <View className="flex-row items-center gap-2 pt-[2px]">
            <TriangleAlert size={16} color="var(--warn)" aria-hidden />
            <Txt size="sm" className="shrink">
              {warnings[0]}
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
}
