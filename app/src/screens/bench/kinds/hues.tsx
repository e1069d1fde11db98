import type { ControlsProps, KindControls } from './types';
import { useState } from 'react';
import { View } from 'react-native';
import type { Stem } from '@inkavo/core/steps/hues';
import { stepKind, type NumberSpec } from '@inkavo/core/steps';
import { FiveCurve } from '../../../instruments/FiveCurve';
import { HueBand } from '../../../instruments/HueBand';
import { Ruler } from '../../../instruments/Ruler';
import { useBench } from '../../../state/bench';
import { ChoiceList } from '../../../ui/Choice';
import { OpenerField } from '../../../ui/OpenerField';
import { Sheet } from '../../../ui/Sheet';

const factor = { unit: 'factor', min: 0, max: 4, neutral: 1, step: 0.02 } as const;
const CURVES = {
  saturationOverLightness: {
    spec: { key: 'saturationOverLightness', label: 'Saturation over lightness', ...factor },
    over: 'lightness',
  },
  lightnessOverSaturation: {
    spec: {
      key: 'lightnessOverSaturation',
      label: 'Lightness over saturation',
      unit: 'percent',
      min: -0.4,
      max: 0.4,
      neutral: 0,
      step: 0.005,
    },
    over: 'saturation',
  },
  saturationOverSaturation: {
    spec: { key: 'saturationOverSaturation', label: 'Saturation over saturation', ...factor },
    over: 'saturation',
  },
} as const satisfies Record<string, { spec: NumberSpec; over: string }>;
type Shown = 'stems' | 'all' | keyof typeof CURVES;

const OPTIONS: readonly { value: Shown; title: string; note: string }[] = [
  { value: 'stems', title: 'Stems', note: 'one hue at a time' },
  { value: 'all', title: 'All hues', note: 'turned together' },
  ...Object.values(CURVES).map(({ spec }) => ({ value: spec.key, title: spec.label, note: 'a curve' })),
];

const CURVE_HEIGHT = 170;

/** The controls of a hues step: stems on the hue band, rotation of all hues, and three curves. */
function HuesHead({ id, params }: ControlsProps) {
  const [shown, setShown] = useState<Shown>('stems');
  const [open, setOpen] = useState(false);
  const { setParams, settle } = useBench.getState();
  const curve = shown === 'stems' || shown === 'all' ? undefined : CURVES[shown];
  return (
    <View>
      <View className="h-[48px] justify-center px-2">
        <OpenerField
          title="Shown"
          value={OPTIONS.find((o) => o.value === shown)!.title}
          onPress={() => setOpen(true)}
        />
      </View>
      {shown === 'stems' ? <HueBand id={id} stems={params.stems as Stem[]} /> : null}
      {shown === 'all' ? (
        <Ruler
          spec={stepKind('hues').numbers[0]}
          value={params.turnAll as number}
          onChange={(v, live) => setParams(id, { turnAll: v }, live)}
          onSettle={settle}
        />
      ) : null}
      {curve ? (
        <FiveCurve
          id={id}
          spec={curve.spec}
          over={curve.over}
          values={params[curve.spec.key] as number[]}
          height={CURVE_HEIGHT}
        />
      ) : null}
      {open ? (
        <Sheet title="Shown" onClose={() => setOpen(false)}>
          <ChoiceList
            label="Shown"
            value={shown}
            options={OPTIONS}
            onChange={(v) => {
              setShown(v);
              setOpen(false);
            }}
          />
        </Sheet>
      ) : null}
    </View>
  );
}

export const huesControls: KindControls = {
  Head: HuesHead,
  ownNumbers: true,
  // The hue band needs more.
  height: 336,
  picks: { hue: { hint: 'Tap the colour to change', run: (picks, area) => picks.hue(area) } },
};
