import { Children, type ReactNode } from 'react';
import { Pressable, ScrollView, View } from 'react-native';
import type { NumberSpec } from '@inkavo/core/steps';
import { matteSchema, type Matte } from '@inkavo/core/regions/matte';
import { MOST_CLEAN, type Region } from '@inkavo/core/regions/region';
import { Ruler } from '../../../instruments/Ruler';
import { RulerGroup } from '../../../instruments/RulerGroup';
import { useBench } from '../../../state/bench';
import { Choice } from '../../../ui/Choice';
import { Minus, Plus, Sun, X } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import { changeRegion } from './inHand';

const number = (key: string, label: string, max: number, neutral: number): NumberSpec => ({
  key,
  label,
  unit: 'percent',
  min: key === 'reach' ? 0.002 : 0,
  max,
  neutral,
  step: 0.005,
});
const REACH = number('reach', 'Reach', 0.6, 0.05);
const SOFT = number('soft', 'Softness', 0.6, 0.04);
const CLEAN: NumberSpec = { ...number('clean', 'Clean up', MOST_CLEAN, 0), step: 0.001 };
const LOW = number('low', 'From', 1, 0);
const HIGH = number('high', 'Up to', 1, 1);
const SPAN_SOFT = number('span', 'Softness', 0.5, 0.05);

/** Changes the selection by colour and lightness; an empty one is removed. */
const changeMatte = (part: Partial<Matte>, live = false): void =>
  changeRegion(({ matte }) => {
    const next = matteSchema.parse({ ...matte, ...part });
    const empty = !next.like && !next.lightness && !next.hue && !next.saturation;
    return { matte: empty ? undefined : next };
  }, live);

/** Chooses how shapes and the selection by colour are combined, if there are both. */
function JoinChoice({ region }: { region: Region }) {
  if (!region.matte || region.shapes.length === 0) return null;
  return (
    <View className="h-[48px] justify-center px-2">
      <Choice
        label="Shapes and colour"
        value={region.join}
        options={[
          { value: 'both', title: 'in the shapes' },
          { value: 'either', title: 'or the shapes' },
          { value: 'without', title: 'shapes without' },
        ]}
        onChange={(join) => changeRegion(() => ({ join }))}
      />
    </View>
  );
}

/**
 * Warm hues to protect from a cold look: from the red of BT.709 (0.29 turns from +Cb) over skin (0.34) to its yellow
 * (0.49).
 */
const WARM: Matte = matteSchema.parse({ hue: { middle: 0.385, reach: 0.1, soft: 0.04 } });

/** Selection by picked colours. */
export function ColourPage({ region }: { region: Region }) {
  const picking = useBench((s) => s.picking);
  const { set, settle } = useBench.getState();
  const like = region.matte?.like;
  const pick = (what: 'like' | 'unlike') => () => set({ picking: picking === what ? null : what, spot: null });
  const setLike = (part: Partial<NonNullable<Matte['like']>>, live = false): void => {
    if (like) changeMatte({ like: { ...like, ...part } }, live);
  };
  return (
    <>
      <View className="h-[48px] flex-row items-center gap-2 px-2">
        <Tool label="Pick colours to choose" short="Pick" icon={Plus} on={picking === 'like'} onPress={pick('like')} />
        {like ? (
          <Tool
            label="Pick colours to leave out"
            short="Not"
            icon={Minus}
            on={picking === 'unlike'}
            onPress={pick('unlike')}
          />
        ) : region.matte?.lightness ? null : (
          <Tool
            label="Keep warm hues out"
            short="Not warm"
            icon={Sun}
            on={region.matte?.hue !== undefined}
            onPress={() =>
              changeRegion(({ matte }) =>
                matte?.hue
                  ? { matte: undefined }
                  : { matte: { ...WARM, inverted: region.shapes.length === 0 }, join: 'without' },
              )
            }
          />
        )}
        <ScrollView horizontal showsHorizontalScrollIndicator={false} contentContainerClassName="items-center gap-1">
          {like?.picks.map(({ colour, away }, i) => (
            <Swatch
              key={i}
              colour={colour}
              away={away}
              onRemove={() => {
                const picks = like.picks.filter((_, k) => k !== i);
                changeMatte({ like: picks.length ? { ...like, picks } : undefined });
              }}
            />
          ))}
        </ScrollView>
      </View>
      <JoinChoice region={region} />
      {like ? (
        <RulerGroup keys={['reach', 'soft', 'clean']}>
          <Beside>
            <Ruler
              spec={REACH}
              value={like.reach}
              onChange={(reach, live) => setLike({ reach }, live)}
              onSettle={settle}
            />
            <Ruler spec={SOFT} value={like.soft} onChange={(soft, live) => setLike({ soft }, live)} onSettle={settle} />
          </Beside>
          <CleanRuler region={region} />
        </RulerGroup>
      ) : (
        <Txt quiet className="px-3 py-1">
          Pick, then tap a colour in the picture, or drag over it.
        </Txt>
      )}
    </>
  );
}

/** Rulers side by side. */
const Beside = ({ children }: { children: ReactNode }) => (
  <View className="flex-row">
    {Children.toArray(children).map((child, i) => (
      <View key={i} className="min-w-0 flex-1">
        {child}
      </View>
    ))}
  </View>
);

/** Range of the maximum size of specks and holes, in shares of the frame's width. */
const CleanRuler = ({ region }: { region: Region }) => (
  <Ruler
    spec={CLEAN}
    value={region.clean}
    onChange={(clean, live) => changeRegion(() => ({ clean }), live)}
    onSettle={useBench.getState().settle}
  />
);

/** A picked colour; a tap removes it. */
function Swatch({ colour, away, onRemove }: { colour: readonly number[]; away: boolean; onRemove(): void }) {
  const rgb = colour.map((v) => Math.round(255 * Math.min(1, Math.max(0, v))));
  return (
    <Pressable
      role="button"
      aria-label={`${away ? 'Left out' : 'Chosen'}: ${rgb.join(', ')}. Take away`}
      onPress={onRemove}
      className="h-[44px] w-[40px] items-center justify-center rounded border-stroke border-edge active:opacity-60"
      style={{ backgroundColor: `rgb(${rgb.join(',')})` }}
    >
      <View className="rounded-full bg-black/70 p-[2px]">
        {away ? <Minus size={14} color="#ffffff" aria-hidden /> : <X size={14} color="#ffffff" aria-hidden />}
      </View>
    </Pressable>
  );
}

/** Selection by lightness alone. */
export function LightPage({ region }: { region: Region }) {
  const { settle } = useBench.getState();
  const span = region.matte?.lightness;
  const part = !span
    ? 'all'
    : span.low > 0 && span.high === 1
      ? 'bright'
      : span.low === 0 && span.high < 1
        ? 'dark'
        : 'span';
  const setSpan = (change: Partial<NonNullable<typeof span>>, live = false): void => {
    if (!span) return;
    const next = { ...span, ...change };
    // The end being moved takes precedence.
    if (next.low > next.high) Object.assign(next, change.low === undefined ? { low: next.high } : { high: next.low });
    changeMatte({ lightness: next }, live);
  };
  return (
    <>
      <View className="h-[48px] justify-center px-2">
        <Choice
          label="By lightness"
          value={part}
          options={[
            { value: 'all', title: 'any' },
            { value: 'dark', title: 'dark' },
            { value: 'span', title: 'between' },
            { value: 'bright', title: 'bright' },
          ]}
          onChange={(v) =>
            changeMatte({
              lightness: {
                all: undefined,
                dark: { low: 0, high: 0.3, soft: 0.15 },
                span: { low: 0.3, high: 0.6, soft: 0.1 },
                bright: { low: 0.6, high: 1, soft: 0.15 },
              }[v],
            })
          }
        />
      </View>
      <JoinChoice region={region} />
      {span ? (
        <RulerGroup keys={['low', 'high', 'span', 'clean']}>
          <Beside>
            {part === 'dark' ? null : (
              <Ruler spec={LOW} value={span.low} onChange={(low, live) => setSpan({ low }, live)} onSettle={settle} />
            )}
            {part === 'bright' ? null : (
              <Ruler
                spec={HIGH}
                value={span.high}
                onChange={(high, live) => setSpan({ high }, live)}
                onSettle={settle}
              />
            )}
          </Beside>
          <Beside>
            <Ruler
              spec={SPAN_SOFT}
              value={span.soft}
              onChange={(soft, live) => setSpan({ soft }, live)}
              onSettle={settle}
            />
            <CleanRuler region={region} />
          </Beside>
        </RulerGroup>
      ) : (
        <Txt quiet className="px-3 py-1">
          Any lightness is chosen.
        </Txt>
      )}
    </>
  );
}
