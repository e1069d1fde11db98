import { execFileSync } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probe } from './codec';
import type { Source } from './frames/rest';

/** Small clips made by the codec's own test sources. */
export const workFolder = (): string => mkdtempSync(join(tmpdir(), 'inkavo-test-'));

/** Makes a file with the codec program; `args` come between the inputs and the output. */
export function make(path: string, input: string, args: string[], more: string[] = []): string {
  execFileSync('ffmpeg', [
    '-hide_banner',
    '-loglevel',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    input,
    ...more,
    ...args,
    path,
  ]);
  return path;
}

export async function sourceOf(path: string): Promise<Source> {
  return { path, ...(await probe(path)) };
}

/** MD5 of every decoded frame, in the file's own pixel format. */
export function frameSums(path: string): string[] {
  const out = execFileSync('ffmpeg', [
    '-loglevel',
    'error',
    '-i',
    path,
    '-map',
    '0:v:0',
    '-f',
    'framemd5',
    '-',
  ]).toString();
  return out
    .split('\n')
    .filter((l) => /^0,/.test(l))
    .map((l) => l.split(',').pop()!.trim());
}

/** Tags for files in limited-range BT.709, as most cameras write them. */
export const TAGS_709 = [
  '-color_range',
  'tv',
  '-colorspace',
  'bt709',
  '-color_primaries',
  'bt709',
  '-color_trc',
  'bt709',
];

/** Tags of a recording in hybrid log-gamma (ITU-R BT.2100). */
export const TAGS_HLG = [
  ...['-color_range', 'tv', '-colorspace', 'bt2020nc'],
  ...['-color_primaries', 'bt2020', '-color_trc', 'arib-std-b67'],
];

/** A plain 8-bit H.264 file, made quickly. */
export const QUICK_H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', ...TAGS_709];

/** Copies a file with metadata for a rotation by 90°. */
export function turn(from: string, to: string): void {
  execFileSync('ffmpeg', ['-loglevel', 'error', '-y', '-i', from, '-c', 'copy', '-metadata:s:v', 'rotate=90', to]);
}

/** A chapter of one recording, 2 s long, with pictures from `from` seconds on. All have equal sizes. */
export const makeChapter = (path: string, from: number, more: string[] = []): string =>
  make(path, `testsrc2=size=320x180:rate=25:duration=4,trim=start=${from}:end=${from + 2},setpts=PTS-STARTPTS`, [
    ...QUICK_H264,
    ...['-b:v', '1M', '-minrate', '1M', '-maxrate', '1M', '-bufsize', '200k', '-x264-params', 'nal-hrd=cbr'],
    ...['-metadata', `creation_time=2031-06-14T09:00:0${from}Z`, ...more],
  ]);
