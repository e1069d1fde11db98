import { useState } from 'react';
import { ActivityIndicator, Pressable, View } from 'react-native';
import { balance } from '@inkavo/core/steps/balance';
import type { AutomaticBalance } from '@inkavo/core/steps/balance/automatic';
import { useEngine } from '../../../engine/context';
import { useBench } from '../../../state/bench';
import { Choice } from '../../../ui/Choice';
import { Pipette, Scale } from '../../../ui/icons';
import { Tool } from '../../../ui/Tool';
import { Txt } from '../../../ui/Txt';
import type { ControlsProps, KindControls } from './types';
import { PictureSheet } from '../PictureSheet';

const METHODS = [
  { value: 'white', title: 'Kelvin' },
  { value: 'recorded', title: 'Recorded' },
  { value: 'gains', title: 'Gains' },
] as const;

/** Ways to set the white: pick it, find it automatically, or enter it in one of three forms. */
function BalanceHead({ id, params }: ControlsProps) {
  const method = params.method as string;
  const picking = useBench((s) => s.picking === 'neutral');
  const { set, setParams } = useBench.getState();
  const [automatic, setAutomatic] = useState(false);
  return (
    <View className="min-h-[48px] flex-row items-center gap-2 px-2">
      <Tool
        label="Pick neutral"
        short="Pick"
        icon={Pipette}
        on={picking}
        onPress={() => set({ picking: picking ? null : 'neutral', spot: null })}
      />
      <Tool label="Balance automatically" short="Auto" icon={Scale} on={automatic} onPress={() => setAutomatic(true)} />
      <View className="flex-1">
        <Choice
          compact
          label="How the white is given"
          value={method}
          options={METHODS}
          onChange={(v) => setParams(id, { method: v })}
        />
      </View>
      {automatic ? <AutomaticSheet id={id} onClose={() => setAutomatic(false)} /> : null}
    </View>
  );
}

/** Results of the automatic methods on this frame, to choose from. */
function AutomaticSheet({ id, onClose }: { id: string; onClose(): void }) {
  const engine = useEngine();
  const [found, setFound] = useState<AutomaticBalance[] | null>(null);
  const [asked, setAsked] = useState(false);
  if (!asked) {
    setAsked(true);
    void engine.current?.picks.automatic(id).then(setFound);
  }
  const choose = (params: Record<string, unknown>): void => {
    useBench.getState().setParams(id, params);
    onClose();
  };
  return (
    <PictureSheet title="Balance automatically" onClose={onClose}>
      {found ? null : <ActivityIndicator color="var(--ink)" accessibilityLabel="Measuring the frame" />}
      {found?.length === 0 ? (
        <Txt>Too little of this frame is bright enough and not clipped. Choose another frame.</Txt>
      ) : null}
      {found?.map(({ name, title, assumes, params }) => (
        <Pressable
          key={name}
          role="button"
          onPress={() => choose(params)}
          className="min-h-[52px] rounded border-stroke border-edge bg-surface px-3 py-2 active:opacity-60"
        >
          <View className="flex-row justify-between gap-3">
            <Txt bold>{title}</Txt>
            <Txt bold>{balance.summary(balance.schema.parse(params))}</Txt>
          </View>
          <Txt size="sm" quiet>
            Right when {assumes}.
          </Txt>
        </Pressable>
      ))}
    </PictureSheet>
  );
}

export const balanceControls: KindControls = {
  Head: BalanceHead,
  picks: { neutral: { hint: 'Tap something neutral, or drag over it', run: (picks, area) => picks.neutral(area) } },
};
