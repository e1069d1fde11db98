import { useState } from 'react';
import { TextInput, View } from 'react-native';
import type { Override, Step } from '@inkavo/core/model/grade';
import { REGION } from '@inkavo/core/regions/region';
import { stepKind, type NumberSpec } from '@inkavo/core/steps';
import { Ruler } from '../../instruments/Ruler';
import { shownLists, useBench, useOwnedStep } from '../../state/bench';
import { followers, followText } from '../../state/shared';
import { detachStep, reattachStep } from '../../state/stepLists';
import { Button } from '../../ui/Button';
import { Choice } from '../../ui/Choice';
import { Txt } from '../../ui/Txt';
import { ChosenClips } from './ChosenClips';
import { copySteps } from './copying';
import { ArrowLeft, ArrowRight, Copy, Link2, ListChecks, RotateCcw, Trash, Unlink2 } from '../../ui/icons';
import { PictureSheet } from './PictureSheet';

const NO_STEPS: Step[] = [];
const STRENGTH: NumberSpec = {
  key: 'strength',
  label: 'Strength',
  unit: 'percent',
  min: 0,
  max: 1,
  neutral: 1,
  step: 0.01,
};
const ON_OFF = [
  { value: 'on', title: 'On' },
  { value: 'off', title: 'Off' },
] as const;
const OWNER_CHOICES = [
  { value: 'camera', title: 'Its camera' },
  { value: 'clip', title: 'This clip' },
  { value: 'outing', title: 'The outing' },
] as const;

/** General settings of a step: on or off, strength, owner, order, reset, remove. */
export function StepSheet() {
  const id = useBench((s) => s.sheet);
  return id ? <OpenSheet id={id} /> : null;
}

/** This clip's override of an inherited step. */
function Here({ step, here, owner }: { step: Step; here: Override; owner: 'camera' | 'outing' }) {
  const { id } = step;
  const [choosing, setChoosing] = useState(false);
  const { overrideStep, settle, edit } = useBench.getState();
  const opened = useBench((s) => s.opened);
  const count = opened ? followers(opened, owner) : undefined;
  const off = step.limited ? here.on !== true : here.on === false;
  return (
    <View className="gap-2" role="group" aria-label="In this clip">
      {count === undefined ? null : <Txt>{followText(owner, count)}</Txt>}
      <Txt size="sm" quiet>
        In this clip
      </Txt>
      <Choice
        label="In this clip"
        value={off ? 'off' : 'on'}
        options={[
          { value: 'on', title: 'Taken over' },
          { value: 'off', title: 'Left out' },
        ]}
        onChange={(v) => overrideStep(id, { ...here, on: v === 'on' })}
      />
      {off ? null : (
        <Ruler
          spec={{ ...STRENGTH, key: 'here', label: 'Of its strength, here' }}
          value={here.strength ?? 1}
          onChange={(strength, live) => overrideStep(id, { ...here, strength }, live)}
          onSettle={settle}
        />
      )}
      <Button
        title={here.params ? 'Tie it again: as for the others' : 'Change it only here'}
        icon={here.params ? Link2 : Unlink2}
        onPress={() => edit((lists) => (here.params ? reattachStep(lists, id) : detachStep(lists, id)))}
      />
      <Button
        title={step.limited ? 'Only in chosen clips: which …' : 'Only in chosen clips …'}
        icon={ListChecks}
        onPress={() => setChoosing(true)}
      />
      {choosing && opened ? (
        <ChosenClips opened={opened} owner={owner} step={step} onClose={() => setChoosing(false)} />
      ) : null}
    </View>
  );
}

function OpenSheet({ id }: { id: string }) {
  const { set, setStep, settle, giveStep, resetStep, removeStep, moveStep } = useBench.getState();
  const owned = useOwnedStep(id);
  const onClose = (): void => {
    settle();
    set({ sheet: null });
  };
  const own = useBench((s) => (owned ? shownLists(s)[owned.owner] : NO_STEPS));
  if (!owned) return null;
  const { owner, step } = owned;
  const kind = stepKind(step.kind);
  const steps = own.filter((s) => s.kind !== REGION);
  const place = steps.findIndex((s) => s.id === id);
  return (
    <PictureSheet title={step.label ?? kind.title} onClose={onClose}>
      <Txt quiet>{kind.help}</Txt>
      <TextInput
        key={id}
        defaultValue={step.label ?? ''}
        placeholder={kind.title}
        placeholderTextColor="var(--quiet)"
        maxLength={60}
        aria-label="Name of this step"
        onChangeText={(text) => setStep(id, { label: text.trim() || undefined }, true)}
        onBlur={settle}
        className="h-[48px] rounded border-stroke border-edge bg-surface px-3 font-sans text-base text-ink"
      />
      <Choice
        label="On or off"
        value={step.on ? 'on' : 'off'}
        options={ON_OFF}
        onChange={(v) => setStep(id, { on: v === 'on' })}
      />
      <Ruler
        spec={STRENGTH}
        value={step.strength}
        onChange={(strength, live) => setStep(id, { strength }, live)}
        onSettle={settle}
      />
      {owner === 'clip' ? null : <Here step={step} here={owned.here ?? {}} owner={owner} />}
      <Txt size="sm" quiet>
        Holds for
      </Txt>
      <Choice label="Holds for" value={owner} options={OWNER_CHOICES} onChange={(next) => giveStep(id, next)} />
      <View className="flex-row gap-2">
        <Button
          title="Earlier"
          icon={ArrowLeft}
          className="flex-1"
          disabled={place === 0}
          onPress={() => moveStep(id, -1)}
        />
        <Button
          title="Later"
          icon={ArrowRight}
          className="flex-1"
          disabled={place === steps.length - 1}
          onPress={() => moveStep(id, 1)}
        />
      </View>
      <View className="flex-row gap-2">
        <Button
          title="Copy"
          icon={Copy}
          className="flex-1"
          onPress={() => {
            copySteps([step]);
            onClose();
          }}
        />
        <Button title="Reset" icon={RotateCcw} className="flex-1" onPress={() => resetStep(id)} />
      </View>
      <Button
        title="Remove"
        icon={Trash}
        onPress={() => {
          removeStep(id);
          onClose();
        }}
      />
    </PictureSheet>
  );
}
