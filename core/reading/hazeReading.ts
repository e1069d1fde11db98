import type { Vec3 } from '../colour/matrix';
import { darkChannel } from '../fields/transmission';
import { median, percentile, type ReadFrame } from './readFrames';

/** Evidence of haze in some frames. */
export interface HazeReading {
  /** Colour of the haze, linear: that of the horizon. */
  airlight: Vec3;
  /** Share of the cells whose dark channel lies between near objects and horizon: faded distance. */
  faded: number;
  /** Dark channel of the darkest cells, as a share of the airlight: near zero in clear air. */
  nearest: number;
}

/** Dark channel, as a share of the airlight, that counts as faded. */
const FADED = [0.2, 0.8] as const;
const AIR_CELLS = 0.05;
const DARKEST = 0.002;

/** Measures haze with the dark channel (He, Sun, Tang 2009); null if the frames are black. */
export function readHaze(frames: readonly ReadFrame[]): HazeReading | null {
  const read = frames.flatMap((frame) => {
    const dark = darkChannel(frame, [1, 1, 1]);
    const [low, air] = [percentile(dark, 0.01), percentile(dark, 1 - (2 * AIR_CELLS) / 5)];
    if (air < 0.02 || air - low < 0.02) return [];
    let faded = 0;
    const sky: Vec3[] = [];
    const far = percentile(dark, 1 - AIR_CELLS);
    for (let i = 0; i < dark.length; i += 1) {
      const place = (dark[i] - low) / (air - low);
      if (place > FADED[0] && place < FADED[1]) faded += 1;
      if (dark[i] >= far) sky.push([frame.rgb[3 * i], frame.rgb[3 * i + 1], frame.rgb[3 * i + 2]]);
    }
    const least = new Float32Array(dark.length).map((_, i) =>
      Math.min(frame.rgb[3 * i], frame.rgb[3 * i + 1], frame.rgb[3 * i + 2]),
    );
    return [{ faded: faded / dark.length, nearest: Math.max(0, percentile(least, DARKEST)) / air, sky }];
  });
  if (read.length === 0) return null;
  const airlight = [0, 1, 2].map((c) => median(read.map(({ sky }) => median(sky.map((s) => s[c]))))) as Vec3;
  return { airlight, faded: median(read.map((r) => r.faded)), nearest: median(read.map((r) => r.nearest)) };
}
