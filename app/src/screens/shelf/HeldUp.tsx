import { useRef, useState, type CSSProperties, type KeyboardEvent } from 'react';
import { ActivityIndicator, View } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import type { ShelfItem } from '@inkavo/core/model/shelf';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Check, Columns2 } from '../../ui/icons';
import { Txt } from '../../ui/Txt';
import { useDrag } from '../../ui/useDrag';
import { usePreview } from './preview';
import type { ShelfUse } from './shelfUse';

const WIDTH = 720;
const FILL = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'contain' } as const;
/** Over the whole frame, opaque: the picture below must not be mistaken for one that is still being rendered. */
const CENTRED: CSSProperties = {
  position: 'absolute',
  inset: 0,
  display: 'flex',
  alignItems: 'center',
  justifyContent: 'center',
  background: 'var(--surround)',
};
const WAYS = [
  { value: 'split', title: 'Split' },
  { value: 'beside', title: 'Side by side' },
  { value: 'swap', title: 'Swapped by a tap' },
] as const;
type Way = (typeof WAYS)[number]['value'];

function Large({ use, steps }: { use: ShelfUse; steps: Step[] }) {
  const { data, error } = usePreview(use.on, steps, WIDTH, true);
  if (error) return <Txt ink="text-white">{error.message}</Txt>;
  if (!data) return <ActivityIndicator color="#ffffff" accessibilityLabel="Drawing it" />;
  return <img src={data} alt="" draggable={false} style={FILL} />;
}

const Tag = ({ text, side }: { text: string; side: 'left' | 'right' }) => (
  <View
    className={`pointer-events-none absolute top-1 max-w-[48%] rounded bg-black/75 px-2 ${side === 'left' ? 'left-1' : 'right-1'}`}
  >
    <Txt size="sm" ink="text-white" numberOfLines={1}>
      {text}
    </Txt>
  </View>
);

/** The frame with the item in focus, or with two items compared. */
export function HeldUp({
  use,
  first,
  second,
  pairing,
  onPair,
  onTake,
}: {
  use: ShelfUse;
  first: ShelfItem | null;
  second: ShelfItem | null;
  /** The next tap chooses the second one. */
  pairing: boolean;
  onPair(on: boolean): void;
  onTake(item: ShelfItem): void;
}) {
  const [way, setWay] = useState<Way>('split');
  const [held, setHeld] = useState(false);
  const [swapped, setSwapped] = useState(false);
  const [split, setSplit] = useState(0.5);
  const ref = useRef<HTMLDivElement>(null);
  const from = useRef(0.5);
  const swap = (): void => {
    if (second && way === 'swap') setSwapped(!swapped);
  };
  useDrag(ref, {
    onStart: () => {
      from.current = split;
      if (!second) setHeld(true);
    },
    onMove: ({ dx }) => {
      if (second && way === 'split')
        setSplit(Math.min(1, Math.max(0, from.current + dx / (ref.current?.clientWidth ?? 1))));
    },
    onEnd: (_p, moved) => {
      setHeld(false);
      if (!moved) swap();
    },
  });
  const one = first ? use.put(first) : use.now;
  const shown = second && way === 'swap' && swapped ? second : first;
  const isSpace = (e: KeyboardEvent): boolean => e.key === ' ' || e.key === 'Enter';
  return (
    <View className="gap-2">
      <div
        ref={ref}
        role="img"
        aria-label={[first?.title ?? 'As it is now', second?.title].filter(Boolean).join(' against ')}
        tabIndex={first ? 0 : -1}
        onKeyDown={(e) => {
          if (!isSpace(e) || e.repeat) return;
          e.preventDefault();
          if (second) swap();
          else setHeld(true);
        }}
        onKeyUp={(e) => isSpace(e) && setHeld(false)}
        onBlur={() => setHeld(false)}
        style={{
          position: 'relative',
          aspectRatio: '16 / 9',
          overflow: 'hidden',
          borderRadius: 4,
          background: 'var(--surround)',
          touchAction: second ? 'pan-y' : 'auto',
          userSelect: 'none',
          display: 'flex',
          alignItems: 'center',
          justifyContent: 'center',
        }}
      >
        {second && way === 'beside' ? (
          <>
            <div style={{ ...CENTRED, position: 'relative', flex: 1, height: '100%' }}>
              <Large use={use} steps={one} />
            </div>
            <div style={{ ...CENTRED, position: 'relative', flex: 1, height: '100%' }}>
              <Large use={use} steps={use.put(second)} />
            </div>
          </>
        ) : (
          <Large use={use} steps={held || !shown ? use.now : use.put(shown)} />
        )}
        {second && way === 'split' ? (
          <>
            <div style={{ ...CENTRED, clipPath: `inset(0 0 0 ${100 * split}%)` }}>
              <Large use={use} steps={use.put(second)} />
            </div>
            <div
              style={{ position: 'absolute', left: `${100 * split}%`, top: 0, bottom: 0, width: 2, background: '#fff' }}
            />
          </>
        ) : null}
        <Tag side="left" text={held || !shown ? 'As it is now' : shown.title} />
        {second && way !== 'swap' ? <Tag side="right" text={second.title} /> : null}
      </div>
      {second ? <Choice label="Shown as" value={way} options={WAYS} onChange={setWay} compact /> : null}
      <View className="min-h-[44px] flex-row items-center gap-2">
        {first ? (
          <>
            {use.take ? (
              <Button
                title={second ? `Take ${(shown ?? first).title}` : use.take.title}
                icon={Check}
                look="strong"
                className="min-w-0 flex-1"
                onPress={() => onTake(shown ?? first)}
              />
            ) : null}
            <Button
              title={second ? 'Only this one' : pairing ? 'Tap another one' : 'Against …'}
              icon={Columns2}
              aria-pressed={pairing}
              onPress={() => {
                setSwapped(false);
                onPair(!pairing && !second);
              }}
            />
          </>
        ) : (
          <Txt size="sm" quiet>
            A tap shows it here, holding the picture compares{use.take ? ', a second tap takes it' : ''}.
          </Txt>
        )}
      </View>
    </View>
  );
}
