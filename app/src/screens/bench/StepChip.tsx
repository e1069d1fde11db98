import { Pressable, View, type ViewStyle } from 'react-native';
import { actsHere } from '@inkavo/core/model/grade';
import { stepKind } from '@inkavo/core/steps';
import { strengthInWords } from '@inkavo/core/report/stepsInWords';
import type { OwnedStep } from '../../state/stepLists';
import { ONLY_HEARD, Txt } from '../../ui/Txt';
import { EllipsisVertical } from '../../ui/icons';
import { useSummary } from './useSummary';

/** Outline by owner: camera double, clip single, outing dashed. */
const outline = (borderStyle: string, borderWidth: number): ViewStyle => ({
  borderStyle: borderStyle as ViewStyle['borderStyle'],
  borderWidth,
  borderColor: 'var(--edge)',
});
// The web supports "double", which the cross-platform type lacks.
const OUTLINES = { camera: outline('double', 4), clip: outline('solid', 2), outing: outline('dashed', 2) };
/** For screen readers, instead of the outline. */
const WHOSE = { camera: 'of the camera', clip: 'of this clip', outing: 'of the outing' } as const;

/** One step of the grade. A tap takes it in hand; a second one opens its general settings. */
export function StepChip({
  owned: { owner, step, here },
  inHand,
  wide,
  region,
  onTake,
  onOpen,
}: {
  owned: OwnedStep;
  inHand: boolean;
  wide?: boolean;
  /** Name of the region in which it acts; undefined: everywhere. */
  region?: string;
  onTake(): void;
  onOpen(): void;
}) {
  const kind = stepKind(step.kind);
  const on = owner === 'clip' ? step.on : actsHere(step, here);
  // At the needle, like the numbers below.
  const inWords = useSummary(step);
  const summary = on ? inWords : step.on ? 'off here' : 'off';
  const share = step.strength * (here?.strength ?? 1);
  const ink = inHand ? 'text-on-accent' : 'text-ink';
  const title = step.label ?? kind.title;
  return (
    <Pressable
      role="button"
      aria-pressed={inHand}
      testID={`step-${step.id}`}
      onPress={inHand ? onOpen : onTake}
      className={`h-[52px] flex-row items-center rounded ${wide ? 'w-full' : 'min-w-[92px] max-w-[150px]'} ${inHand ? 'bg-accent' : 'bg-surface'}`}
      style={OUTLINES[owner]}
    >
      <View className="min-w-0 shrink grow px-2">
        <View className="flex-row items-baseline gap-2">
          <Txt
            bold={inHand}
            ink={ink}
            numberOfLines={1}
            className="shrink grow"
            style={on ? undefined : { textDecorationLine: 'line-through' }}
          >
            {title}
          </Txt>
          {on && share < 1 ? (
            <Txt size="sm" ink={ink} aria-hidden>
              {Math.round(100 * share)}
              {'\u00a0'}%
            </Txt>
          ) : null}
        </View>
        <Txt size="sm" ink={inHand ? ink : 'text-quiet'} numberOfLines={1}>
          {region === undefined ? '' : `${region} · `}
          {here?.params ? 'only here · ' : ''}
          {summary}
        </Txt>
        <Txt style={ONLY_HEARD}>
          {on ? strengthInWords(share) : ''} {WHOSE[owner]}
        </Txt>
      </View>
      {inHand ? <EllipsisVertical size={18} color="var(--on-accent)" aria-hidden /> : null}
    </Pressable>
  );
}
