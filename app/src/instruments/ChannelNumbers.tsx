import { useState } from 'react';
import { Pressable, View } from 'react-native';
import type { Mark } from '@inkavo/core/scopes/readings';
import type { NumberSpec } from '@inkavo/core/steps';
import { shownLists, useBench } from '../state/bench';
import { joined } from '@inkavo/core/model/lists';
import { findStep } from '../state/stepLists';
import { Txt } from '../ui/Txt';
import { channelOffsets, withChannel, type Channel } from './channelOffsets';
import { Keypad } from './Keypad';

const CHANNELS = [
  { channel: 'red', letter: 'R' },
  { channel: 'green', letter: 'G' },
  { channel: 'blue', letter: 'B' },
] as const satisfies { channel: Channel; letter: string }[];

const spec = (channel: Channel): NumberSpec => ({
  key: channel,
  label: `${channel[0].toUpperCase()}${channel.slice(1)} of this mark`,
  unit: 'percent',
  min: -0.4,
  max: 0.4,
  neutral: 0,
  step: 0.0025,
});

/** What the bands step adds to red, green and blue at a mark, in percent; a tap types it. */
export function ChannelNumbers({ mark, column }: { mark: Mark; column?: boolean }) {
  const lists = useBench(shownLists);
  const inHand = useBench((s) => s.inHand);
  const [typing, setTyping] = useState<Channel | null>(null);
  const held = findStep(lists, inHand)?.step;
  const step = held?.kind === 'bands' ? held : joined(lists).find((s) => s.kind === 'bands' && s.on);
  const number = (key: string): number => (typeof step?.params[key] === 'number' ? (step.params[key] as number) : 0);
  const colour = { cb: number(`${mark}Cb`), cr: number(`${mark}Cr`) };
  const offsets = channelOffsets(colour);
  const set = (channel: Channel, value: number): void => {
    const { addStep, setParams } = useBench.getState();
    if (!step) addStep('bands');
    const { cb, cr } = withChannel(colour, channel, value);
    const hold = (v: number): number => Math.min(0.25, Math.max(-0.25, v));
    setParams(step?.id ?? useBench.getState().inHand!, { [`${mark}Cb`]: hold(cb), [`${mark}Cr`]: hold(cr) });
  };
  return (
    <View className={column ? '' : 'flex-row justify-between'}>
      {CHANNELS.map(({ channel, letter }) => {
        const text = `${offsets[channel] > 0 ? '+' : ''}${(offsets[channel] * 100).toFixed(1)}`.replace('-', '−');
        return (
          <Pressable
            key={channel}
            role="button"
            aria-label={`${channel} ${text} %. Type it`}
            onPress={() => setTyping(channel)}
            className={`flex-row items-center gap-2 ${column ? 'h-[28px]' : 'h-[44px]'}`}
          >
            <Txt size="sm" quiet>
              {letter}
            </Txt>
            <Txt size={column ? 'sm' : 'base'} bold testID={`mark-${channel}`}>
              {text} %
            </Txt>
          </Pressable>
        );
      })}
      {typing ? (
        <Keypad
          spec={spec(typing)}
          value={offsets[typing]}
          onClose={() => setTyping(null)}
          onSet={(value) => {
            set(typing, value);
            setTyping(null);
          }}
        />
      ) : null}
    </View>
  );
}
