import { z } from 'zod';
import { FormatError } from '../error';
import { placesOf, type CutClip, type CutList } from './cutList';

/*
 * OpenTimelineIO, as its published file format documentation has it: JSON whose objects carry OTIO_SCHEMA with name and
 * version. The names of schemas and fields are from memory.
 */

const rational = (value: number, rate: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
const range = (start: number, duration: number, rate: number) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: rational(start, rate),
  duration: rational(duration, rate),
});
const fps = ({ num, den }: CutList['rate']): number => num / den;

/** A path as a relative URL. */
export const urlOf = (path: string): string => path.split('/').map(encodeURIComponent).join('/');

function otioClip(clip: CutClip, list: CutList, place: ReturnType<typeof placesOf>[number]): object {
  const [own, film] = [fps(clip.rate), fps(list.rate)];
  // Ranges are in the clip's own frames, starting at its time code; the duration is the one it occupies in the
  // timeline.
  const head = ((place.dissolve >> 1) / film) * own * clip.factor;
  const { slope, offset, power, saturation } = clip.cdl;
  return {
    OTIO_SCHEMA: 'Clip.1',
    name: clip.name,
    source_range: range(clip.start + clip.inFrame + head, (place.frames / film) * own, own),
    media_reference: {
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: urlOf(clip.path),
      available_range: range(clip.start, clip.frames, own),
      metadata: {},
    },
    effects:
      clip.factor === 1
        ? []
        : [
            {
              OTIO_SCHEMA: 'LinearTimeWarp.1',
              name: '',
              effect_name: 'LinearTimeWarp',
              time_scalar: clip.factor,
              metadata: {},
            },
          ],
    markers: clip.markers.map((m) => ({
      OTIO_SCHEMA: 'Marker.2',
      name: m.name,
      color: 'RED',
      marked_range: range(clip.start + m.frame, m.frames, own),
      metadata: {},
    })),
    metadata: {
      // Metadata key under which other programs look for a CDL.
      cdl: { asc_sop: { slope, offset, power }, asc_sat: saturation },
      inkavo: {
        camera: clip.camera,
        inFrame: clip.inFrame,
        outFrame: clip.outFrame,
        rate: clip.rate,
        dropFrame: clip.drop,
        notInCdl: clip.lost,
        luts: clip.luts,
      },
    },
  };
}

/** A cut list as an OpenTimelineIO file: one video track, and an audio track with the same clips. */
export function writeOtio(list: CutList): string {
  const places = placesOf(list);
  const film = fps(list.rate);
  const children = list.clips.flatMap((clip, k) => {
    const place = places[k];
    const dissolve = {
      OTIO_SCHEMA: 'Transition.1',
      name: '',
      transition_type: 'SMPTE_Dissolve',
      // Before and after the cut.
      in_offset: rational(places[k - 1]?.behind ?? 0, film),
      out_offset: rational(place.before, film),
      metadata: {},
    };
    return [...(place.dissolve > 0 ? [dissolve] : []), otioClip(clip, list, place)];
  });
  const track = (kind: string) => ({
    OTIO_SCHEMA: 'Track.1',
    name: kind,
    kind,
    children,
    effects: [],
    markers: [],
    metadata: {},
  });
  const timeline = {
    OTIO_SCHEMA: 'Timeline.1',
    name: list.name,
    global_start_time: null,
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      children: [track('Video'), track('Audio')],
      effects: [],
      markers: [],
      metadata: {},
    },
    metadata: { inkavo: { rate: list.rate, dissolve: list.dissolve } },
  };
  return `${JSON.stringify(timeline, null, 2)}\n`;
}

const time = z.object({ rate: z.number().positive(), value: z.number() });
const timeRange = z.object({ start_time: time, duration: time });
const rateShape = z.object({ num: z.number().int().positive(), den: z.number().int().positive() });
const three = z.tuple([z.number(), z.number(), z.number()]);
const mediaShape = z.object({ target_url: z.string(), available_range: timeRange.nullable().optional() });
/** Clips of schema version 2 may have several references, one of which is active. */
function oneReference(clip: unknown): unknown {
  const { media_references: all, active_media_reference_key: key } = clip as Record<string, unknown>;
  if (!all || typeof all !== 'object' || typeof key !== 'string') return clip;
  return { ...(clip as object), media_reference: (all as Record<string, unknown>)[key] };
}
const clipBody = z.object({
  OTIO_SCHEMA: z.string().regex(/^Clip\./),
  name: z.string(),
  source_range: timeRange,
  media_reference: mediaShape,
  effects: z.array(z.object({ OTIO_SCHEMA: z.string(), time_scalar: z.number().optional() })).default([]),
  markers: z.array(z.object({ name: z.string(), marked_range: timeRange })).default([]),
  metadata: z
    .object({
      cdl: z
        .object({ asc_sop: z.object({ slope: three, offset: three, power: three }), asc_sat: z.number() })
        .optional(),
      inkavo: z
        .object({
          camera: z.string(),
          inFrame: z.number(),
          outFrame: z.number(),
          rate: rateShape,
          dropFrame: z.boolean().default(false),
          notInCdl: z.array(z.string()),
          luts: z.array(z.string()),
        })
        .optional(),
    })
    .default({}),
});
const clipShape = z.preprocess(oneReference, clipBody);
const transitionShape = z.object({ OTIO_SCHEMA: z.string().regex(/^Transition\./), in_offset: time, out_offset: time });
const timelineShape = z.object({
  OTIO_SCHEMA: z.string().regex(/^Timeline\./),
  name: z.string(),
  tracks: z.object({
    children: z.array(z.object({ kind: z.string(), children: z.array(z.unknown()) })),
  }),
  metadata: z.object({ inkavo: z.object({ rate: rateShape, dissolve: z.number() }).optional() }).default({}),
});

/** A frame rate as a fraction; recognises rates over 1001. */
function fraction(rate: number): CutList['rate'] {
  const whole = Math.round(rate);
  if (Math.abs(rate - whole) < 1e-4) return { num: whole, den: 1 };
  const ntsc = Math.round((rate * 1001) / 1000);
  return Math.abs((ntsc * 1000) / 1001 - rate) < 1e-3
    ? { num: ntsc * 1000, den: 1001 }
    : { num: Math.round(rate * 1000), den: 1000 };
}

function read<T>(schema: z.ZodType<T>, value: unknown, what: string): T {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new FormatError(`${what}: ${issue.path.join('.')}: ${issue.message}`);
}

/**
 * Reads the first video track of an OpenTimelineIO file. Files written here carry all that a film needs; in others,
 * gaps are closed and transitions become dissolves. Throws a {@link FormatError} that says where it is wrong.
 */
export function readOtio(text: string): CutList {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new FormatError('This is not an OpenTimelineIO file: it is not JSON.');
  }
  const timeline = read(timelineShape, json, 'The timeline');
  const track = timeline.tracks.children.find((t) => t.kind === 'Video');
  if (!track) throw new FormatError('The timeline has no video track.');
  const own = timeline.metadata.inkavo;
  let dissolve = own?.dissolve ?? 0;
  const clips: CutClip[] = [];
  for (const [i, child] of track.children.entries()) {
    const schema = (child as { OTIO_SCHEMA?: string }).OTIO_SCHEMA ?? '';
    if (schema.startsWith('Transition.')) {
      const { in_offset, out_offset } = read(transitionShape, child, `Item ${i + 1}`);
      if (!own) dissolve = Math.max(dissolve, in_offset.value / in_offset.rate + out_offset.value / out_offset.rate);
    } else if (schema.startsWith('Clip.')) clips.push(clipFrom(read(clipShape, child, `Item ${i + 1}`)));
  }
  if (clips.length === 0) throw new FormatError('There is no clip on the video track.');
  return { name: timeline.name, rate: own?.rate ?? clips[0].rate, dissolve, clips };
}

/** The path of a relative URL, or of a file URL of this machine. */
const pathOf = (url: string): string =>
  url
    .replace(/^file:\/\/(localhost)?(?=\/)/, '')
    .split('/')
    .map(decodeURIComponent)
    .join('/');

function clipFrom({
  name,
  source_range,
  media_reference,
  effects,
  markers,
  metadata,
}: z.infer<typeof clipBody>): CutClip {
  const { cdl, inkavo } = metadata;
  const factor = effects.find((e) => e.OTIO_SCHEMA.startsWith('LinearTimeWarp.'))?.time_scalar ?? 1;
  const rate = inkavo?.rate ?? fraction(source_range.start_time.rate);
  const { available_range: available } = media_reference;
  const inRate = ({ value, rate: of }: z.infer<typeof time>): number => Math.round((value * rate.num) / rate.den / of);
  const start = available ? inRate(available.start_time) : 0;
  const inFrame = inkavo?.inFrame ?? inRate(source_range.start_time) - start;
  if (inFrame < 0) throw new FormatError(`${name}: it begins before its recording does.`);
  const length = Math.max(
    1,
    Math.round((source_range.duration.value * factor * fps(rate)) / source_range.duration.rate),
  );
  return {
    name,
    path: pathOf(media_reference.target_url),
    rate,
    frames: available ? inRate(available.duration) : inFrame + length,
    start,
    drop: inkavo?.dropFrame ?? false,
    inFrame,
    outFrame: inkavo?.outFrame ?? inFrame + length - 1,
    factor,
    camera: inkavo?.camera ?? '',
    cdl: {
      id: name,
      slope: cdl?.asc_sop.slope ?? [1, 1, 1],
      offset: cdl?.asc_sop.offset ?? [0, 0, 0],
      power: cdl?.asc_sop.power ?? [1, 1, 1],
      saturation: cdl?.asc_sat ?? 1,
    },
    lost: inkavo?.notInCdl ?? [],
    luts: inkavo?.luts ?? [],
    markers: markers.map((m) => ({
      name: m.name,
      frame: inRate(m.marked_range.start_time) - start,
      frames: inRate(m.marked_range.duration),
    })),
  };
}
