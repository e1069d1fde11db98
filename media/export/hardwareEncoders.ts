import type { Codec } from '@inkavo/core/model/delivery';
import { DELIVERY_INFO } from '@inkavo/core/model/delivery';
import { QUIET, run } from '../codec/run';

/** A hardware encoder of the machine, by its name in the media library, and its input. */
export interface HardwareEncoder {
  name: string;
  /** Frames in memory: two planes, chroma interleaved. */
  format: 'nv12' | 'p010le';
  /** The device type that frames are uploaded to; undefined if the encoder reads memory. */
  device?: string;
}

/** Naming scheme of the media library's encoders: codec, then hardware interface. */
const FAMILIES: Partial<Record<Codec, string>> = { h264: 'h264', h265: 'hevc', h265x8: 'hevc', av1: 'av1' };

/** Test input: a second of moving bars at a size that hardware supports (some reject less than 256 pixels). */
const TRIAL = { width: 640, height: 368, frames: 24, megabits: 8 };
const TRIAL_MS = 10_000;
/**
 * Maximum mean difference from the input, in 8-bit code values; working encoders stay below 2 at this bitrate (measured
 * with software encoders).
 */
const FAITHFUL = 6;

/** Arguments that assign a device to the filters. */
export const deviceArgs = ({ device }: HardwareEncoder): string[] =>
  device ? ['-init_hw_device', `${device}=unit`, '-filter_hw_device', 'unit'] : [];

/** Filters that convert planar frames to the encoder's input. */
export const toDevice = ({ format, device }: HardwareEncoder): string[] => [
  `format=${format}`,
  ...(device ? ['hwupload'] : []),
];

/** Arguments of the encoder. All support a bitrate; other options differ. */
export const hardwareArgs = ({ name }: HardwareEncoder, megabits: number): string[] => [
  ...['-c:v', name, '-b:v', `${megabits}M`, '-maxrate', `${1.5 * megabits}M`, '-bufsize', `${2 * megabits}M`],
  ...(name.startsWith('hevc_') ? ['-tag:v', 'hvc1'] : []),
];

let found: Promise<ReadonlyMap<Codec, HardwareEncoder>> | undefined;

/** Working hardware encoders of this machine by codec: each is tested once. Empty without such hardware. */
export const hardwareEncoders = (): Promise<ReadonlyMap<Codec, HardwareEncoder>> => (found ??= findHardwareEncoders());

/** Detects them again; see {@link hardwareEncoders}. Never rejects. */
export async function findHardwareEncoders(): Promise<ReadonlyMap<Codec, HardwareEncoder>> {
  const working = new Map<Codec, HardwareEncoder>();
  const lines = await listed('-encoders');
  const devices = (await listed('-hwaccels')).map((line) => line.trim());
  for (const [codec, family] of Object.entries(FAMILIES) as [Codec, string][]) {
    const format = DELIVERY_INFO[codec].depth === 10 ? 'p010le' : 'nv12';
    const names = lines.flatMap((line) => new RegExp(`^ V\\S+ (${family}_(\\w+)) `).exec(line)?.[1] ?? []);
    const timed: { encoder: HardwareEncoder; ms: number }[] = [];
    for (const name of names) {
      const device = devices.find((d) => name === `${family}_${d}`);
      const forms: HardwareEncoder[] = [...(device ? [{ name, format, device } as const] : []), { name, format }];
      for (const encoder of forms) {
        const from = performance.now();
        if (!(await works(encoder))) continue;
        timed.push({ encoder, ms: performance.now() - from });
        break;
      }
    }
    const [best] = timed.toSorted((a, b) => a.ms - b.ms);
    if (best) working.set(codec, best.encoder);
  }
  return working;
}

const listed = (what: '-encoders' | '-hwaccels'): Promise<string[]> =>
  run('ffmpeg', ['-hide_banner', what], { timeoutMs: TRIAL_MS, maxOutput: 1 << 20 }).then(
    (out) => out.toString().split('\n'),
    () => [],
  );

/** Whether an encoder reproduces its input: broken drivers are common. */
async function works(encoder: HardwareEncoder): Promise<boolean> {
  const { width, height, frames, megabits } = TRIAL;
  const bars = [
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=${width}x${height}:rate=24,format=yuv420p`,
    '-frames:v',
    `${frames}`,
  ];
  const grey = ['-pix_fmt', 'gray', '-f', 'rawvideo', 'pipe:1'];
  const options = { timeoutMs: TRIAL_MS, maxOutput: 64 << 20 };
  try {
    const coded = await run(
      'ffmpeg',
      [
        ...[...QUIET, ...deviceArgs(encoder), ...bars, '-vf', toDevice(encoder).join(',')],
        ...[...hardwareArgs(encoder, megabits), '-f', 'matroska', 'pipe:1'],
      ],
      options,
    );
    const decode = [...QUIET, '-f', 'matroska', '-i', 'pipe:0', '-fps_mode', 'passthrough', ...grey];
    const decoded = await run('ffmpeg', decode, { ...options, input: coded });
    const asked = await run('ffmpeg', [...QUIET, ...bars, ...grey], options);
    if (decoded.length !== asked.length) return false;
    let off = 0;
    for (let i = 0; i < asked.length; i += 1) off += Math.abs(asked[i] - decoded[i]);
    return off / asked.length < FAITHFUL;
  } catch {
    return false;
  }
}
