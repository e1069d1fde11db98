import { closeSync, openSync, readSync, statSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { Placed } from '@inkavo/core/model/film';
import type { Retime } from '@inkavo/core/model/retime';
import { QUIET, run, SAFE_INPUT } from '../codec/run';
import type { Source } from '../frames/rest';
import { soundFrom, tempo } from './delivery';

/** Format of a film's sound while processing: 32-bit floats, two channels. */
export const SOUND_RATE = 48_000;
const CHANNELS = 2;
const FRAME_BYTES = 4 * CHANNELS;
export const SOUND_FORMAT = ['-f', 'f32le', '-ar', String(SOUND_RATE), '-ac', String(CHANNELS)];
/** Samples per read. */
const BLOCK = SOUND_RATE;
/** Length in samples of the fades at cuts, which prevent clicks (10 ms; common practice). */
const FADE = SOUND_RATE / 100;
/** Maximum level change of a clip in decibels: wind should stay quieter than an engine. */
const MOST_GAIN_DB = 6;
/** Loudness below which a clip counts as silent (the absolute gate of EBU R 128), LUFS. */
const SILENT = -70;
/** Peak limit of levelling, so that decoders of lossy codecs do not clip: −1 dB. */
const PEAK = 10 ** (-1 / 20);

export interface SoundShot {
  source: Source;
  inFrame: number;
  outFrame: number;
  retime: Retime;
}

const samplesAt = (frame: number, rate: MediaFacts['frameRate']): number =>
  Math.round((frame * SOUND_RATE * rate.den) / rate.num);

/** Decodes a shot's sound, at its speed, to a file. Undefined for a shot without any. */
async function decode(shot: SoundShot, path: string, signal?: AbortSignal): Promise<string | undefined> {
  const { source, inFrame, outFrame, retime } = shot;
  const { facts } = source;
  if (!facts.audio || retime.sound === 'goes') return undefined;
  const seconds = (frames: number): number => (frames * facts.frameRate.den) / facts.frameRate.num;
  const from = [...soundFrom(facts, seconds(inFrame)), '-t', seconds(outFrame - inFrame + 1).toFixed(6)];
  const speed = retime.factor === 1 ? [] : ['-af', tempo(retime.factor)];
  const args = [
    ...QUIET,
    '-y',
    ...from,
    ...SAFE_INPUT,
    '-i',
    source.path,
    '-map',
    `0:a:${facts.audio.index}`,
    ...speed,
  ];
  await run('ffmpeg', [...args, ...SOUND_FORMAT, path], { signal });
  return path;
}

/** Integrated loudness by EBU R 128 in LUFS, and the peak of a file. */
async function measure(path: string, signal?: AbortSignal): Promise<{ loudness: number; peak: number }> {
  const filter = 'ebur128=metadata=1,ametadata=mode=print:key=lavfi.r128.I:file=-';
  const said = await run('ffmpeg', [...QUIET, ...SOUND_FORMAT, '-i', path, '-af', filter, '-f', 'null', '-'], {
    signal,
  });
  const values = [...said.toString().matchAll(/lavfi\.r128\.I=(\S+)/g)];
  const loudness = Number(values.at(-1)?.[1] ?? SILENT);
  let peak = 0;
  const samples = new Samples(path);
  for (let at = 0; at < samples.length; at += BLOCK) {
    for (const v of samples.read(at, BLOCK)) peak = Math.max(peak, Math.abs(v));
    await nextTurn();
  }
  samples.close();
  return { loudness: Number.isFinite(loudness) ? loudness : SILENT, peak };
}

/** Random access to the samples of a file. Silence beyond its ends. */
class Samples {
  readonly length: number;
  private readonly file: number;
  constructor(path: string) {
    this.length = Math.floor(statSync(path).size / FRAME_BYTES);
    this.file = openSync(path, 'r');
  }
  read(from: number, count: number): Float32Array {
    const values = new Float32Array(count * CHANNELS);
    const have = Math.max(0, Math.min(count, this.length - from));
    if (have > 0) readSync(this.file, new Uint8Array(values.buffer), 0, have * FRAME_BYTES, from * FRAME_BYTES);
    return values;
  }
  close = (): void => closeSync(this.file);
}

/** Gains that level shots towards their median loudness; 1 for silent ones. */
export function levels(measured: readonly ({ loudness: number; peak: number } | undefined)[]): number[] {
  const heard = measured.flatMap((m) => (m && m.loudness > SILENT ? [m.loudness] : [])).sort((a, b) => a - b);
  const middle = heard[heard.length >> 1];
  return measured.map((m) => {
    if (!m || m.loudness <= SILENT) return 1;
    const db = Math.max(-MOST_GAIN_DB, Math.min(MOST_GAIN_DB, middle - m.loudness));
    return Math.min(10 ** (db / 20), Math.max(1, PEAK / m.peak));
  });
}

/**
 * A film's sound as one file of floats, exactly as long as its picture. Shots without sound are silent; dissolves
 * crossfade with equal power, cuts get short fades to prevent clicks.
 */
export async function filmSound(
  shots: readonly SoundShot[],
  placed: readonly Placed[],
  {
    rate,
    levelled,
    work,
    signal,
  }: { rate: MediaFacts['frameRate']; levelled: boolean; work: string; signal?: AbortSignal },
): Promise<string | undefined> {
  const files: (string | undefined)[] = [];
  for (const [k, shot] of shots.entries()) files.push(await decode(shot, join(work, `sound-${k}.raw`), signal));
  if (files.every((f) => f === undefined)) return undefined;
  const measured = levelled ? await Promise.all(files.map((f) => f && measure(f, signal))) : [];
  const gains = levelled ? levels(measured.map((m) => m || undefined)) : files.map(() => 1);
  const output = join(work, 'sound.raw');
  const to = openSync(output, 'w');
  try {
    const end = samplesAt(placed.at(-1)!.start + placed.at(-1)!.frames, rate);
    const tracks = files.map((file, k) => track(file, placed, k, rate, gains[k]));
    // Only shots audible in a block are read.
    for (let at = 0; at < end; at += BLOCK) {
      const block = new Float32Array(Math.min(BLOCK, end - at) * CHANNELS);
      for (const t of tracks) t?.addTo(block, at);
      writeSync(to, new Uint8Array(block.buffer));
      // A block takes milliseconds: requests to the server are handled in between.
      await nextTurn();
      signal?.throwIfAborted();
    }
    tracks.forEach((t) => t?.close());
  } finally {
    closeSync(to);
  }
  return output;
}

/** One shot's part in the film's sound. */
function track(
  file: string | undefined,
  placed: readonly Placed[],
  k: number,
  rate: MediaFacts['frameRate'],
  gain: number,
) {
  if (file === undefined) return undefined;
  const { start, frames, dissolve } = placed[k];
  const from = samplesAt(start, rate);
  const length = samplesAt(start + frames, rate) - from;
  const next = placed[k + 1];
  const fadeIn = dissolve > 0 ? samplesAt(start + dissolve, rate) - from : Math.min(FADE, length >> 1);
  const fadeOut = next?.dissolve
    ? samplesAt(next.start + next.dissolve, rate) - samplesAt(next.start, rate)
    : Math.min(FADE, length >> 1);
  const samples = new Samples(file);
  const rise = (share: number): number => Math.sin((Math.PI / 2) * Math.min(1, Math.max(0, share)));
  return {
    addTo(block: Float32Array, at: number): void {
      const first = Math.max(at, from);
      const last = Math.min(at + block.length / CHANNELS, from + length);
      if (first >= last) return;
      const values = samples.read(first - from, last - first);
      for (let i = 0; i < last - first; i += 1) {
        const n = first - from + i;
        const g = gain * rise((n + 0.5) / fadeIn) * rise((length - n - 0.5) / fadeOut);
        for (let c = 0; c < CHANNELS; c += 1) block[(first - at + i) * CHANNELS + c] += g * values[i * CHANNELS + c];
      }
    },
    close: samples.close,
  };
}
