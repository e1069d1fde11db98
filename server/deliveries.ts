import { existsSync, mkdtempSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import {
  deliveredRetime,
  deliveredSize,
  DELIVERY_INFO,
  megabitsOf,
  nameFrom,
  type Delivery,
} from '@inkavo/core/model/delivery';
import { audioTracks } from '@inkavo/core/model/facts';
import { DOCUMENT_INFO, type documentRequest } from '@inkavo/core/model/document';
import type { FilmRequest } from '@inkavo/core/model/film';
import { joinSteps, type Step } from '@inkavo/core/model/grade';
import type { Owner } from '@inkavo/core/model/lists';
import type { Expected } from '@inkavo/core/model/job';
import { lookOf, type Camera, type Clip, type Outing } from '@inkavo/core/model/outing';
import { deliveredRate, retimedSeconds } from '@inkavo/core/model/retime';
import { exportClip } from '@inkavo/media/export/exportClip';
import type { Outline, OutlineClip } from '@inkavo/media/documents/outline';
import type { z } from 'zod';
import type { Parts } from './parts';
import { badRequest } from './http/problems';
import { fileStem } from './stores/jobs';
import { pixelsOf, type NewJob } from './stores/newJob';

type Needed = Pick<Parts, 'clips' | 'outings' | 'shelf' | 'library'>;
type Estimating = Pick<Parts, 'clips' | 'shelf' | 'library' | 'jobs'>;

/** A clip with everything that determines its picture. */
export interface Whole {
  clip: Clip;
  camera: Camera;
  outing: Outing;
  /** All steps applied to its frames, in order. */
  steps: Step[];
}

export async function wholeClip({ clips, outings }: Pick<Parts, 'clips' | 'outings'>, id: string): Promise<Whole> {
  const clip = await clips.get(id);
  const [camera, outing] = [await outings.camera(clip.cameraId), await outings.get(clip.outingId)];
  return { clip, camera, outing, steps: joinSteps(camera.steps, clip.steps, outing.steps, clip.overrides) };
}

const withoutEnding = (name: string): string => name.replace(/\.[a-z0-9]{2,4}$/i, '');

/** File name of a delivery, without extension; clip number `n` of this many. */
export function stemOf({ clip, camera, outing }: Whole, delivery: Delivery, n: number, of: number): string {
  const { width, height } = deliveredSize(clip.facts, delivery);
  return fileStem(
    nameFrom(delivery.name, {
      clip: withoutEnding(clip.name),
      camera: camera.name,
      outing: outing.name,
      day: outing.date,
      n: String(n).padStart(String(of).length, '0'),
      lines: String(Math.min(width, height)),
      codec: delivery.codec,
    }),
  );
}

/** The job that exports a clip. Steps are copied: the export shows what was queued. */
export function exportJob(whole: Whole, delivery: Delivery, n: number, of: number): NewJob {
  const { clip, camera, outing, steps } = whole;
  const { hash, inFrame, outFrame, retime } = clip;
  const look = lookOf(clip.revision, camera.revision, outing.revision);
  return {
    payload: { kind: 'export', hash, steps, delivery, inFrame, outFrame, look, ...(retime ? { retime } : {}) },
    title: clip.name,
    stem: stemOf(whole, delivery, n, of),
    outingId: clip.outingId,
    clipId: clip.id,
    pixels: pixelsOf(clip.facts, outFrame - inFrame + 1),
  };
}

/** The job that makes a film. Throws a 400 {@link HttpError} for clips of another outing. */
export async function filmJob(parts: Needed, request: FilmRequest): Promise<NewJob> {
  const outing = await parts.outings.get(request.outingId);
  const { delivery, dissolve, levelled } = request;
  const shots: Extract<NewJob['payload'], { kind: 'film' }>['shots'] = [];
  let pixels = 0;
  for (const id of request.clipIds) {
    const { clip, steps } = await wholeClip(parts, id);
    if (clip.outingId !== outing.id) throw badRequest(`"${clip.name}" belongs to another outing.`);
    const { hash, inFrame, outFrame, retime } = clip;
    shots.push({ hash, steps, inFrame, outFrame, retime });
    pixels += pixelsOf(clip.facts, outFrame - inFrame + 1);
  }
  const upright = delivery.aspect === '9:16' || delivery.aspect === '4:5';
  return {
    payload: { kind: 'film', shots, delivery, dissolve, levelled },
    title: outing.name,
    stem: fileStem(upright ? `${outing.name} upright` : outing.name),
    outingId: outing.id,
    pixels,
  };
}

/** Clips of an outing with the data for documents; all of the outing's if none are named. */
export async function outlineOf(parts: Needed, outingId: string, clipIds: readonly string[]): Promise<Outline> {
  const { name, place, date } = await parts.outings.get(outingId);
  const clips: OutlineClip[] = [];
  for (const id of clipIds) {
    const { clip, camera, outing, steps } = await wholeClip(parts, id);
    const owners = new Map<string, Owner>([
      ...camera.steps.map((s) => [s.id, 'camera'] as const),
      ...clip.steps.map((s) => [s.id, 'clip'] as const),
      ...outing.steps.map((s) => [s.id, 'outing'] as const),
    ]);
    const proxy = parts.library.proxy(clip.hash);
    clips.push({
      ...{ name: clip.name, file: clip.file, camera: camera.name, sha256: clip.hash, steps },
      source: await parts.clips.source(clip, parts.library.original(clip.hash)),
      ...(clip.proxy === 'ready' && existsSync(proxy) ? { proxy } : {}),
      luts: await parts.shelf.textsFor(steps),
      ownerOf: (step) => owners.get(step) ?? null,
      ...{ inFrame: clip.inFrame, outFrame: clip.outFrame },
      ...{ referenceFrame: clip.referenceFrame, retime: clip.retime },
    });
  }
  return { name, place, date, clips };
}

/** The job that generates a document about the outing's clips. */
export async function documentJob(parts: Needed, request: z.infer<typeof documentRequest>): Promise<NewJob> {
  const outing = await parts.outings.get(request.outingId);
  const clipIds = request.clipIds ?? (await parts.clips.ofOuting(outing.id)).map((c) => c.id);
  if (clipIds.length === 0) throw badRequest('This outing has no clips.');
  for (const id of clipIds) await parts.clips.get(id);
  return {
    payload: { kind: 'document', form: request.form, clipIds, dissolve: request.dissolve },
    title: outing.name,
    stem: fileStem(`${outing.name}${DOCUMENT_INFO[request.form].suffix}`),
    outingId: outing.id,
  };
}

/** Frames encoded for estimating a size: the GOP length of the encoders. */
const SAMPLE = { few: 12, many: 48, whole: 250 };
/** Approximate bits per second of encoded or copied sound. */
const SOUND_BITS = 256_000;

/**
 * Estimates the size of a delivery: from its bitrate, or by encoding some frames from the middle of the clip. The bytes
 * of a keyframe and of the frames in between follow from a short and a longer stretch. `of`: clips delivered together.
 */
export async function expectedOf(
  parts: Estimating,
  whole: Whole,
  delivery: Delivery,
  of: number,
  signal: AbortSignal,
): Promise<Expected> {
  const { clip, steps } = whole;
  const { facts, inFrame, outFrame } = clip;
  const frames = outFrame - inFrame + 1;
  const retime = deliveredRetime(clip.retime, delivery);
  const seconds = retimedSeconds(facts, frames, retime ?? null);
  const { width, height } = deliveredSize(facts, delivery);
  const name = await parts.jobs.freeName(stemOf(whole, delivery, 1, of), DELIVERY_INFO[delivery.codec].extension);
  const sound = delivery.sound === 'kept' ? audioTracks(facts).length * (SOUND_BITS / 8) * seconds : 0;
  if ((delivery.megabits || delivery.effort === 'fast') && DELIVERY_INFO[delivery.codec].quality) {
    const rate = retime ? deliveredRate(facts, retime) : facts.frameRate;
    const megabits = megabitsOf(delivery, (width * height * rate.num) / rate.den);
    return { bytes: (megabits * 1e6 * seconds) / 8 + sound, seconds, width, height, name };
  }
  const source = await parts.clips.source(clip, parts.library.original(clip.hash));
  const luts = await parts.shelf.textsFor(steps);
  const folder = mkdtempSync(join(parts.library.temporary, 'expected-'));
  try {
    const first = inFrame + Math.max(0, (frames - SAMPLE.many) >> 1);
    const bytesFor = async (count: number): Promise<number> => {
      const output = join(folder, String(count));
      const last = Math.min(outFrame, first + count - 1);
      await exportClip({
        ...{ source, steps, luts, output, signal, work: parts.library.temporary },
        delivery: { ...delivery, sound: 'off' },
        ...{ inFrame: first, outFrame: last, retime: clip.retime ?? undefined },
      });
      return statSync(output).size;
    };
    const many = await bytesFor(SAMPLE.many);
    if (frames <= SAMPLE.many) return { bytes: many + sound, seconds, width, height, name };
    const few = await bytesFor(SAMPLE.few);
    const between = Math.max(0, (many - few) / (SAMPLE.many - SAMPLE.few));
    const whole = Math.max(0, few - between * (SAMPLE.few - 1));
    const bytes = Math.ceil(frames / SAMPLE.whole) * whole + frames * between;
    return { bytes: bytes + sound, seconds, width, height, name };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
