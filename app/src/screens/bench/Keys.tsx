import { useShallow } from 'zustand/react/shallow';
import { useState } from 'react';
import { View } from 'react-native';
import { fps, secondsOf, type MediaFacts } from '@inkavo/core/model/facts';
import { isKeyframed, keyAt, resolveParams, withKey, withoutKey, type Keyframed } from '@inkavo/core/regions/keyframes';
import { stepKind, type NumberSpec } from '@inkavo/core/steps';
import type { Step } from '@inkavo/core/model/grade';
import { KeyLane } from '../../instruments/KeyLane';
import { Ruler } from '../../instruments/Ruler';
import { useBench, useOwnedStep } from '../../state/bench';
import { shownStrip } from '../../state/strip';
import { IconButton } from '../../ui/Button';
import { Choice, ChoiceList } from '../../ui/Choice';
import { ArrowLeft, ArrowRight, Diamond, Trash, X } from '../../ui/icons';
import { OpenerField } from '../../ui/OpenerField';
import { Sheet } from '../../ui/Sheet';
import { Txt } from '../../ui/Txt';

const LANE_HEIGHT = 88;

/** Numbers of a step that are currently shown, or that have keyframes. */
function numbersOf(step: Step): readonly NumberSpec[] {
  const kind = stepKind(step.kind);
  const params = kind.schema.parse(resolveParams(step.params, 0));
  return kind.numbers.filter((n) => !n.when || n.when(params) || isKeyframed(step.params[n.key]));
}

/** The number whose keyframes are shown: the chosen one, or the first that has any, or the first. */
function chosenNumber(step: Step, key: string | null): NumberSpec | undefined {
  const numbers = numbersOf(step);
  return numbers.find((n) => n.key === key) ?? numbers.find((n) => isKeyframed(step.params[n.key])) ?? numbers[0];
}

/** Keyframes of one number of the step in hand: set at the playhead, shown as a curve over the clip, moved, removed. */
export function Keys({ facts, width }: { facts: MediaFacts; width: number }) {
  const inHand = useBench((s) => s.inHand);
  const key = useBench((s) => s.keying);
  const frame = useBench((s) => s.frame);
  const owned = useOwnedStep(inHand);
  const strip = useBench(useShallow(shownStrip));
  const [choosing, setChoosing] = useState(false);
  const { set, setParams, settle } = useBench.getState();
  const spec = owned && chosenNumber(owned.step, key);
  if (!owned || !spec)
    return (
      <View className="h-[48px] flex-row items-center px-3">
        <Txt quiet className="flex-1">
          This step has no number that could change over the clip.
        </Txt>
        <IconButton label="Close the keyframes" icon={X} onPress={() => set({ keying: null })} />
      </View>
    );
  const { step } = owned;
  const value = step.params[spec.key];
  const seconds = secondsOf(facts, frame);
  // Aligned with the strip below.
  const [begin, length] = [secondsOf(facts, strip.first), (strip.last - strip.first + 1) / fps(facts)];
  const keyed = isKeyframed(value) ? value : null;
  const now = Number(resolveParams({ [spec.key]: value ?? spec.neutral }, seconds)[spec.key]);
  const here = keyed ? keyAt(keyed, seconds) : undefined;
  const put = (next: Keyframed | number, live = false): void => setParams(step.id, { [spec.key]: next }, live);
  const go = (to: number): void =>
    set({ frame: Math.min(facts.frames - 1, Math.round(to * fps(facts))), playing: false });
  const setHere = (): void =>
    put(keyed ? withKey(keyed, seconds, now) : { keys: [{ seconds, value: now, ease: 'linear' }] });
  const before = keyed?.keys.findLast((k) => k.seconds < seconds - 0.004);
  const after = keyed?.keys.find((k) => k.seconds > seconds + 0.004);
  return (
    <View testID="keys" className="bg-ground">
      <View className="h-[48px] flex-row items-center gap-1 pl-2">
        <View className="min-w-0 flex-1">
          <OpenerField
            label={`Over the clip: ${spec.label}. Change it`}
            value={spec.label}
            onPress={() => setChoosing(true)}
          />
        </View>
        <IconButton
          label="Earlier keyframe"
          icon={ArrowLeft}
          disabled={!before}
          onPress={() => before && go(before.seconds)}
        />
        {here ? (
          <IconButton
            label="Take this keyframe away"
            icon={Trash}
            onPress={() => {
              const rest = withoutKey(keyed!, here);
              // A plain number must not become a key again.
              useBench.getState().setParam(step.id, spec.key, rest);
            }}
          />
        ) : (
          <IconButton label="Set a keyframe here" icon={Diamond} onPress={setHere} />
        )}
        <IconButton
          label="Later keyframe"
          icon={ArrowRight}
          disabled={!after}
          onPress={() => after && go(after.seconds)}
        />
        <IconButton label="Close the keyframes" icon={X} onPress={() => set({ keying: null })} />
      </View>
      <Ruler
        spec={spec}
        value={now}
        onChange={(v, live) => setParams(step.id, { [spec.key]: v }, live)}
        onSettle={settle}
      />
      {keyed ? (
        <View className="px-[30px]">
          <KeyLane
            spec={spec}
            number={keyed}
            begin={begin}
            length={length}
            playhead={seconds}
            width={width}
            height={LANE_HEIGHT}
            onChange={put}
            onSettle={settle}
            onGo={go}
          />
        </View>
      ) : (
        <View style={{ height: LANE_HEIGHT }} className="justify-center px-3">
          <Txt quiet>
            {spec.label} is the same over the whole clip. Set a keyframe here, go elsewhere, and set it anew.
          </Txt>
        </View>
      )}
      {here ? (
        <View className="h-[48px] flex-row items-center gap-3 px-3">
          <Txt quiet>To the next</Txt>
          <View className="flex-1">
            <Choice
              label="How the value goes on to the next keyframe"
              value={here.ease}
              options={[
                { value: 'linear', title: 'even' },
                { value: 'smooth', title: 'smooth' },
                { value: 'hold', title: 'hold' },
              ]}
              onChange={(ease) => put({ keys: keyed!.keys.map((k) => (k === here ? { ...k, ease } : k)) })}
            />
          </View>
        </View>
      ) : (
        <View className="h-[48px]" />
      )}
      {choosing ? (
        <Sheet title="Which number" onClose={() => setChoosing(false)}>
          <ChoiceList
            label="Number"
            value={spec.key}
            options={numbersOf(step).map((n) => ({
              value: n.key,
              title: n.group ? `${n.group}: ${n.label}` : n.label,
              note: isKeyframed(step.params[n.key])
                ? `${(step.params[n.key] as Keyframed).keys.length} keyframes`
                : undefined,
            }))}
            onChange={(next) => {
              set({ keying: next });
              setChoosing(false);
            }}
          />
        </Sheet>
      ) : null}
    </View>
  );
}

/** Height of the panel. */
export const KEYS_HEIGHT = 48 + 48 + LANE_HEIGHT + 48;
