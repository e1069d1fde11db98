import type { StepInWords } from '@inkavo/core/report/stepsInWords';
import type { ReportClip } from './report';

const OWNERS = { camera: 'camera', clip: 'clip', outing: 'outing' } as const;

/** What a step is, after its title: whose, where, how strong. */
export const stepNotes = ({ owner, region, strength }: StepInWords): string =>
  [owner ? OWNERS[owner] : '', region ?? '', strength < 1 ? `${Math.round(strength * 100)} %` : '']
    .filter(Boolean)
    .join(' · ');

/** Numbers of a step; its summary where it has none. */
export const stepNumbers = ({ numbers, summary }: StepInWords): string =>
  numbers.length ? numbers.join(', ') : summary;

/** From in to out, and how fast. */
export const stretchText = ({ inFrame, outFrame, seconds, speed }: ReportClip): string =>
  `frames ${inFrame}–${outFrame}, ${seconds.toFixed(1)} s${speed === 1 ? '' : ` at ${Number((100 * speed).toFixed(1))} % of the recorded speed`}`;

export const holdText = ({ troubles }: ReportClip): string[] =>
  troubles.length
    ? troubles.map((t) => `Frames ${t.fromFrame}–${t.toFrame}: ${t.text}`)
    : ['The grade holds from in to out.'];

/** When a clip was recorded, as people write it: "2031-06-14 09:20:00 UTC"; as it stands where it is no such time. */
export function recordedText(recordedAt: string): string {
  const time = new Date(recordedAt);
  return Number.isNaN(time.getTime()) ? recordedAt : `${time.toISOString().slice(0, 19).replace('T', ' ')} UTC`;
}
