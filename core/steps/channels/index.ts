import { z } from 'zod';
import { numberShape } from '../numbers';
import { midTone, type Tone } from '../shared/tone';
import { allNeutral, type NumberSpec, type StepKind } from '../types';

const CHANNELS = ['red', 'green', 'blue'] as const;
type Channel = (typeof CHANNELS)[number];
const title = (channel: Channel): string => channel[0].toUpperCase() + channel.slice(1);

const level = { unit: 'percent', neutral: 0, step: 0.005 } as const;
const numbersOf = (channel: Channel) =>
  [
    {
      key: `${channel}Bottom`,
      label: `${title(channel)} bottom`,
      group: title(channel),
      min: -0.4,
      max: 0.4,
      ...level,
    },
    {
      key: `${channel}Middle`,
      label: `${title(channel)} middle`,
      group: title(channel),
      min: -0.35,
      max: 0.35,
      ...level,
    },
    { key: `${channel}Top`, label: `${title(channel)} top`, group: title(channel), min: -0.6, max: 1, ...level },
  ] as const;

type Key = `${Channel}${'Bottom' | 'Middle' | 'Top'}`;
const numbers = CHANNELS.flatMap((c) => numbersOf(c)) as readonly (NumberSpec & { key: Key })[];
const schema = z.object(numberShape(numbers));
type Params = z.infer<typeof schema>;

/** Minimum distance between a channel's bottom and top. */
const MIN_SPAN = 0.02;

/** A channel's middle, then its ends: bottom −4 % moves 0 to −4 %. */
function toneOf(bottom: number, middle: number, top: number): Tone {
  const bend = middle === 0 ? undefined : midTone(middle);
  const span = Math.max(MIN_SPAN, 1 + top - bottom);
  if (bottom === 0 && top === 0) return bend ?? ((x) => x);
  return bend ? (x) => bottom + bend(x) * span : (x) => bottom + x * span;
}

/** Bottom, middle and top of red, green and blue separately, on encoded values. */
export const channels: StepKind<Params> = {
  kind: 'channels',
  title: 'Channels',
  help: 'Lines up red, green and blue: the bottom, middle and top of each on its own.',
  domain: 'encoded',
  schema,
  numbers,
  neutral: schema.parse({}),
  isNeutral: (p) => allNeutral(numbers, p),
  prepare(p) {
    const tones = CHANNELS.map((c) => toneOf(p[`${c}Bottom`], p[`${c}Middle`], p[`${c}Top`]));
    return (rgb) => {
      for (let i = 0; i < 3; i += 1) rgb[i] = tones[i](rgb[i]);
    };
  },
  summary(p) {
    const changed = CHANNELS.filter((c) => numbersOf(c).some((n) => p[n.key as Key] !== 0));
    return changed.length ? changed.join(', ') : 'neutral';
  },
};
