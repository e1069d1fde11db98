import { TextInput } from 'react-native';
import type { Step } from '@inkavo/core/model/grade';
import { strengthAt } from '@inkavo/core/regions/region';
import { stepKind } from '@inkavo/core/steps';
import { Ruler } from '../../../instruments/Ruler';
import { useBench } from '../../../state/bench';
import { leaveRegion, regionOf, removeRegion, useRegionTool } from '../../../state/regions';
import { ownedSteps } from '../../../state/stepLists';
import { Button } from '../../../ui/Button';
import { Trash } from '../../../ui/icons';
import { Choice } from '../../../ui/Choice';
import { Sheet } from '../../../ui/Sheet';
import { Txt } from '../../../ui/Txt';
import { usePlayheadSeconds } from './inHand';
import { regionName } from './WhereSheet';

/** Settings of a region as a whole: its name, the steps that act there, removal. */
export function RegionSheet({ step, onClose }: { step: Step; onClose(): void }) {
  const region = regionOf(step);
  const reading = useRegionTool((s) => s.reading);
  const seconds = usePlayheadSeconds();
  const { setStep, setParams, settle, edit } = useBench.getState();
  const steps = ownedSteps(useBench((s) => s.lists)).filter((o) => o.step.region === step.id);
  return (
    <Sheet
      title={regionName(step.label)}
      onClose={() => {
        settle();
        onClose();
      }}
    >
      <TextInput
        key={step.id}
        defaultValue={step.label ?? ''}
        placeholder="Region"
        placeholderTextColor="var(--quiet)"
        maxLength={60}
        aria-label="Name of this region"
        onChangeText={(text) => setStep(step.id, { label: text.trim() || undefined }, true)}
        onBlur={settle}
        className="h-[48px] rounded border-stroke border-edge bg-surface px-3 font-sans text-base text-ink"
      />
      <Choice
        label="What is chosen"
        value={region.inverted ? 'rest' : 'chosen'}
        options={[
          { value: 'chosen', title: 'What is chosen' },
          { value: 'rest', title: 'All but that' },
        ]}
        onChange={(v) => setParams(step.id, { inverted: v === 'rest' })}
      />
      <Ruler
        spec={stepKind(step.kind).numbers[0]}
        value={strengthAt(region, seconds)}
        onChange={(strength, live) => setParams(step.id, { strength }, live)}
        onSettle={settle}
      />
      <Txt size="sm" quiet>
        Scopes and readings of
      </Txt>
      <Choice
        label="Scopes and readings of"
        value={reading ? 'region' : 'frame'}
        options={[
          { value: 'frame', title: 'The frame' },
          { value: 'region', title: 'This region' },
        ]}
        onChange={(v) => useRegionTool.setState({ reading: v === 'region' })}
      />
      <Txt quiet>{steps.length === 1 ? 'One step acts here.' : `${steps.length} steps act here.`}</Txt>
      <Button
        title="Remove the region"
        icon={Trash}
        onPress={() => {
          edit((now) => removeRegion(now, step.id));
          leaveRegion();
          onClose();
        }}
      />
    </Sheet>
  );
}
