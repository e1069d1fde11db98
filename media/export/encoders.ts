import { DELIVERY_INFO, megabitsOf, type Codec, type Delivery } from '@inkavo/core/model/delivery';
import { QUIET, run } from '../codec/run';
import { deviceArgs, toDevice, hardwareArgs, hardwareEncoders, type HardwareEncoder } from './hardwareEncoders';
import type { Container } from './sound';

/** Lossless pictures of this many lines and more are split into 16 slices, encoded in parallel. */
const SLICED_FROM = 360;
/** Some slice counts are rejected for small pictures of odd size (measured: 16 at 405 × 121, 4 at 131 × 75). */
const slices = (lines: number): string[] => (lines < SLICED_FROM ? [] : ['-slices', '16']);

/** The encoders' own names of effort levels. */
const PRESETS: Record<Exclude<Delivery['effort'], 'fast'>, { x26x: string; av1: string }> = {
  quick: { x26x: 'veryfast', av1: '10' },
  even: { x26x: 'medium', av1: '8' },
  careful: { x26x: 'slow', av1: '5' },
};

/** The encoder behind each codec. */
const ENCODERS: Record<Codec, string> = {
  h264: 'libx264',
  h265: 'libx265',
  h265x8: 'libx265',
  av1: 'libsvtav1',
  vc3: 'dnxhd',
  ffv1: 'ffv1',
};

/** The hardware encoder that a delivery requests, if the machine has a working one. */
export const unitFor = async ({ codec, effort }: Delivery): Promise<HardwareEncoder | undefined> =>
  effort === 'fast' ? (await hardwareEncoders()).get(codec) : undefined;

/**
 * Filters and encoder arguments for the picture. With `unit`, that hardware encoder is used, at a bitrate; without one,
 * a delivery that requested hardware is encoded quickly by the CPU.
 */
export function pictureArgs(
  delivery: Delivery,
  { width, height, framesPerSecond }: { width: number; height: number; framesPerSecond: number },
  filters: readonly string[],
  unit?: HardwareEncoder,
): string[] {
  const chain = unit ? [...filters, ...toDevice(unit)] : filters;
  const megabits = unit ? megabitsOf(delivery, width * height * framesPerSecond) : 0;
  return [
    ...(chain.length ? ['-vf', chain.join(',')] : []),
    ...(unit ? [...deviceArgs(unit), ...hardwareArgs(unit, megabits)] : videoArgs(delivery, height)),
  ];
}

/** Arguments of the video encoder for a picture with `lines` lines. */
function videoArgs({ codec, effort, quality, megabits }: Delivery, lines: number): string[] {
  const preset = PRESETS[effort === 'fast' ? 'quick' : effort];
  const h265 = ['-preset', preset.x26x, '-tag:v', 'hvc1', '-x265-params', 'log-level=error'];
  const own: Record<Codec, string[]> = {
    h264: ['-preset', preset.x26x, '-profile:v', 'high'],
    h265,
    h265x8: h265,
    av1: ['-preset', preset.av1],
    vc3: ['-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
    ffv1: ['-level', '3', ...slices(lines), '-slicecrc', '1', '-g', '1'],
  };
  const rate = !DELIVERY_INFO[codec].quality ? [] : megabits ? ['-b:v', `${megabits}M`] : ['-crf', String(quality)];
  return ['-c:v', ENCODERS[codec], ...own[codec], ...rate];
}

/** The container format is explicit, since unfinished files have another extension. */
export const containerArgs = (container: Container): string[] =>
  container === 'mkv' ? ['-f', 'matroska'] : ['-movflags', '+faststart+write_colr', '-f', container];

let found: Promise<ReadonlySet<Codec>> | undefined;

/** Codecs that can be encoded here: each is tested once with a few small frames. */
export const encodableCodecs = (): Promise<ReadonlySet<Codec>> => (found ??= tryAll());

async function tryAll(): Promise<ReadonlySet<Codec>> {
  const tried = await Promise.all(
    (Object.keys(ENCODERS) as Codec[]).map(async (codec) => {
      const delivery = { codec, quality: 30, effort: 'quick' } as Delivery;
      const depth = DELIVERY_INFO[codec].depth === 10 ? 'yuv420p10le' : 'yuv420p';
      const source = ['-f', 'lavfi', '-i', `color=gray:size=256x128:rate=25:duration=0.12,format=${depth}`];
      const works = await run('ffmpeg', [...QUIET, ...source, ...videoArgs(delivery, 128), '-f', 'null', '-'], {
        timeoutMs: 20_000,
      }).then(
        () => true,
        () => false,
      );
      return works ? [codec] : [];
    }),
  );
  return new Set(tried.flat());
}
