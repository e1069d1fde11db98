import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fps, secondsOf } from '@inkavo/core/model/facts';
import { retimedSeconds } from '@inkavo/core/model/retime';
import { stepsInWords, type StepInWords } from '@inkavo/core/report/stepsInWords';
import { restFrame } from '../frames/rest';
import { repositoryRoot } from '../root';
import { inThread } from '../threads/pool';
import { checked, type Outline, type OutlineClip } from './outline';

/** One clip of a report. */
export interface ReportClip {
  name: string;
  camera: string;
  sha256: string;
  /** Size, rate, depth, codec, on one line. */
  file: string;
  recordedAt: string | null;
  /** From in to out: frames, and delivered seconds. */
  inFrame: number;
  outFrame: number;
  seconds: number;
  speed: number;
  /** The profile that it is converted from; null: none. */
  profile: string | null;
  steps: StepInWords[];
  readings: { before: string[]; after: string[] };
  /** Troubles of the hold check, with their frames. */
  troubles: { fromFrame: number; toFrame: number; text: string }[];
  /** JPEGs of the representative frame. */
  pictures: { frame: number; before: Buffer; after: Buffer };
}

/** A record of the corrections of an outing's clips. */
export interface Report {
  version: string;
  /** When it was generated, ISO 8601. */
  made: string;
  outing: { name: string; place: string; date: string };
  clips: ReportClip[];
}

/** Width in pixels of a report's pictures. */
const WIDTH = 640;

export const version = (): string =>
  (JSON.parse(readFileSync(join(repositoryRoot(), 'package.json'), 'utf8')) as { version: string }).version;

/** A clip's picture before and after, as JPEGs. */
export async function beforeAndAfter(
  clip: OutlineClip,
  width: number,
  signal?: AbortSignal,
): Promise<{ before: Buffer; after: Buffer }> {
  const { source, referenceFrame, steps, luts } = clip;
  const picture = await restFrame(source, referenceFrame, width, signal);
  const seconds = secondsOf(source.facts, referenceFrame);
  const jpeg = async (list: typeof steps): Promise<Buffer> =>
    Buffer.from(await inThread({ kind: 'picture', picture, steps: list, luts, seconds }, { signal }));
  return { before: await jpeg([]), after: await jpeg(steps) };
}

async function reportClip(clip: OutlineClip, signal?: AbortSignal): Promise<ReportClip> {
  const { source, steps, luts, referenceFrame, inFrame, outFrame, retime } = clip;
  const { facts } = source;
  const picture = await restFrame(source, referenceFrame, WIDTH, signal);
  const seconds = secondsOf(facts, referenceFrame);
  const [pictures, readings, hold] = [
    await beforeAndAfter(clip, WIDTH, signal),
    await inThread({ kind: 'readings', picture, steps, luts, seconds }, { signal }),
    await checked(clip, signal),
  ];
  const convert = steps.find((s) => s.kind === 'convert' && s.on);
  const profile = (convert?.params.profile as { name?: string } | undefined)?.name ?? null;
  return {
    name: clip.name,
    camera: clip.camera,
    sha256: clip.sha256,
    file: `${facts.width}×${facts.height}, ${Number(fps(facts).toFixed(2))} fps, ${facts.depth} bit, ${facts.codec}`,
    recordedAt: facts.recordedAt,
    ...{ inFrame, outFrame },
    seconds: retimedSeconds(facts, outFrame - inFrame + 1, retime),
    speed: retime?.factor ?? 1,
    profile,
    steps: stepsInWords(steps, clip.ownerOf),
    readings,
    troubles: hold.troubles.map(({ fromFrame, toFrame, text }) => ({ fromFrame, toFrame, text })),
    pictures: { frame: referenceFrame, ...pictures },
  };
}

/** Generates a report, clip by clip. */
export async function makeReport(
  outline: Outline,
  { onProgress, signal }: { onProgress?: (done: number) => void; signal?: AbortSignal } = {},
): Promise<Report> {
  const clips: ReportClip[] = [];
  for (const [k, clip] of outline.clips.entries()) {
    clips.push(await reportClip(clip, signal));
    onProgress?.((k + 1) / outline.clips.length);
  }
  const { name, place, date } = outline;
  return { version: version(), made: new Date().toISOString(), outing: { name, place, date }, clips };
}

/** A report as data, without pictures. */
export const reportJson = ({ clips, ...rest }: Report): string =>
  `${JSON.stringify({ ...rest, clips: clips.map(({ pictures: _pictures, ...clip }) => clip) }, null, 2)}\n`;
