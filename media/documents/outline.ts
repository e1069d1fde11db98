import { frameOf, isDropFrame } from '@inkavo/core/formats/timeline/timecode';
import { gradeToCdl } from '@inkavo/core/formats/gradeCdl';
import type { CutClip, CutList } from '@inkavo/core/formats/timeline/cutList';
import type { Step } from '@inkavo/core/model/grade';
import type { Owner } from '@inkavo/core/model/lists';
import { usualRate, type Retime } from '@inkavo/core/model/retime';
import { HOLD_FRAMES, type HoldReport } from '@inkavo/core/reading/holdCheck';
import { clipFrames } from '../reading/clipFrames';
import { inThread } from '../threads/pool';
import type { Source } from '../frames/rest';

/** A clip in a document. */
export interface OutlineClip {
  name: string;
  /** Original file name of its recording. */
  file: string;
  camera: string;
  /** SHA-256 of its original. */
  sha256: string;
  source: Source;
  /** Its proxy, if there is one: quicker to read. */
  proxy?: string;
  /** All steps applied to its frames. */
  steps: Step[];
  luts: Record<string, string>;
  ownerOf(id: string): Owner | null;
  inFrame: number;
  outFrame: number;
  referenceFrame: number;
  retime: Retime | null;
}

/** Contents of a document: clips in order. */
export interface Outline {
  name: string;
  place: string;
  date: string;
  clips: OutlineClip[];
}

/** Runs a hold check on a clip's grade from in to out. */
export async function checked(clip: OutlineClip, signal?: AbortSignal): Promise<HoldReport> {
  const { source, proxy, inFrame, outFrame, steps, luts } = clip;
  const pictures = await clipFrames(source, { proxy, inFrame, outFrame, count: HOLD_FRAMES }, { signal });
  return inThread({ kind: 'holdCheck', pictures, steps, own: steps.map((s) => s.id), luts }, { signal });
}

/** Folder, next to a timeline, in which it looks for originals. */
const MEDIA = 'media';

/** Clips as a cut list, with troubles of their hold checks as markers. */
export async function cutListOf(
  outline: Outline,
  { dissolve, onProgress, signal }: { dissolve: number; onProgress?: (done: number) => void; signal?: AbortSignal },
): Promise<CutList> {
  const clips: CutClip[] = [];
  for (const [k, clip] of outline.clips.entries()) {
    const { facts } = clip.source;
    const { cdl, lost } = gradeToCdl(
      clip.steps.filter((s) => s.kind !== 'region'),
      clip.name,
    );
    const { troubles } = await checked(clip, signal);
    const tables = clip.steps.flatMap((s) =>
      s.kind === 'lut' && s.on ? [String(s.params.title ?? s.label ?? s.id)] : [],
    );
    clips.push({
      ...{ name: clip.name, path: `${MEDIA}/${clip.file}`, rate: facts.frameRate, frames: facts.frames },
      ...{ inFrame: clip.inFrame, outFrame: clip.outFrame, factor: clip.retime?.factor ?? 1, camera: clip.camera },
      start: facts.timecode ? (frameOf(facts.timecode, facts.frameRate) ?? 0) : 0,
      drop: facts.timecode !== null && isDropFrame(facts.timecode),
      ...{ cdl, lost, luts: tables },
      markers: troubles.map((t) => ({ frame: t.fromFrame, frames: t.toFrame - t.fromFrame + 1, name: t.text })),
    });
    onProgress?.((k + 1) / outline.clips.length);
  }
  const rate = usualRate(
    outline.clips.map(({ source, retime }) => ({ facts: { frameRate: retime?.rate ?? source.facts.frameRate } })),
  )!;
  return { name: outline.name, rate, dissolve, clips };
}
