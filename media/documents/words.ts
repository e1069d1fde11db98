import type { StepInWords } from '@inkavo/core/report/stepsInWords';
import type { ReportClip } from './report';

const OWNERS = { camera: 'camera', clip: 'clip', outing: 'outing' } as const;

/** Describes a step's owner, region and strength, after its title. */
export const stepNotes = ({ owner, region, strength }: StepInWords): string =>
  [owner ? OWNERS[owner] : '', region ?? '', strength < 1 ? `${Math.round(strength * 100)} %` : '']
    .filter(Boolean)
    .join(' · ');

/** The numbers of a step; its summary if there are none. */
export const stepNumbers = ({ numbers, summary }: StepInWords): string =>
  numbers.length ? numbers.join(', ') : summary;

/** From in to out, and speed. */
export const stretchText = ({ inFrame, outFrame, seconds, speed }: ReportClip): string =>
  `frames ${inFrame}–${outFrame}, ${seconds.toFixed(1)} s${speed === 1 ? '' : ` at ${Number((100 * speed).toFixed(1))} % of the recorded speed`}`;

export const holdText = ({ troubles }: ReportClip): string[] =>
  troubles.length
    ? troubles.map((t) => `Frames ${t.fromFrame}–${t.toFrame}: ${t.text}`)
    : ['The grade holds from in to out.'];

/** Recording time for display: "2031-06-14 09:20:00 UTC"; unchanged if it is not a valid time. */
export function recordedText(recordedAt: string): string {
  const time = new Date(recordedAt);
  return Number.isNaN(time.getTime()) ? recordedAt : `${time.toISOString().slice(0, 19).replace('T', ' ')} UTC`;
}
