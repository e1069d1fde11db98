import type { Vec3 } from '@inkavo/core/colour/matrix';
import { bt709 } from '@inkavo/core/colour/transfer';
import { encodedToLab } from '@inkavo/core/colour/lab';
import { downsample } from '@inkavo/core/fields/smallPicture';
import type { ClipDive } from '@inkavo/core/model/diveLog';
import type { Step } from '@inkavo/core/model/grade';
import { compile } from '@inkavo/core/program/compile';
import { evaluate } from '@inkavo/core/program/evaluate';
import type { ClipFrame } from '@inkavo/core/reading/firstPass';
import { drawCamera, record, render } from './camera';
import { expose } from './cases';
import { random } from './random';
import { inWater, look, type Water } from './spectra';
import { drawSurfaces, KNOWN_HEIGHT as H, KNOWN_WIDTH as W } from './surfaces';

/** A made clip of a descent, with its dive log and a neutral slate at every moment. */
export interface Descent {
  name: string;
  frames: ClipFrame[];
  dive: ClipDive;
  seconds: number;
  /** The slate as recorded at a time, encoded. */
  slate(seconds: number): Vec3;
}

/** Distances of the background and the slate in metres, and the target of automatic exposure. */
const THINGS = 2;
const SLATE = 1;
const EXPOSED = 0.4;
const FRAMES = 12;

export function descent(name: string, water: Water, from: number, to: number, seed: number): Descent {
  const rng = random(seed);
  const seconds = 30;
  const depthAt = (t: number): number => from + ((to - from) * t) / seconds;
  const surfaces = drawSurfaces(rng, 'aside', 0, true);
  const camera = { ...drawCamera(rng), curve: bt709.encode };
  const gains = new Map<number, number>();
  const lightAt = (t: number): Float32Array => {
    const seen = inWater(water, depthAt(t), THINGS);
    const surface = surfaces.at(t / seconds);
    const light = new Float32Array(surface.length);
    for (let i = 0; i < W * H; i += 1)
      light.set(look(seen, [surface[3 * i], surface[3 * i + 1], surface[3 * i + 2]]), 3 * i);
    gains.set(t, expose(light, EXPOSED));
    return light;
  };
  const gainAt = (t: number): number => {
    if (!gains.has(t)) lightAt(t);
    return gains.get(t)!;
  };
  const frames = Array.from({ length: FRAMES }, (_, i) => {
    const t = (seconds * i) / (FRAMES - 1);
    const light = lightAt(t);
    return { small: downsample(record(camera, camera.curve, light, gainAt(t), W, H, rng)), seconds: t };
  });
  // The log of a longer dive, a sample every two seconds; the clip begins at its twentieth second.
  const samples = Array.from({ length: 40 }, (_, i) => ({ seconds: 2 * i, metres: Math.max(0, depthAt(2 * i - 20)) }));
  return {
    name,
    frames,
    seconds,
    dive: { log: { name, startedAt: null, samples }, offset: 20 },
    slate: (t) => {
      const gain = gainAt(t);
      return render(
        camera,
        camera.curve,
        look(inWater(water, depthAt(t), SLATE), [0.45, 0.45, 0.45]).map((v) => gain * v) as Vec3,
      );
    },
  };
}

/** The largest deviation of the slate from neutral over a descent, after steps: a* or b*. */
export function slateOff({ slate, seconds }: Descent, steps: readonly Step[]): number {
  let worst = 0;
  for (let t = 0; t <= seconds; t += 2) {
    const [, a, b] = encodedToLab(evaluate(compile(steps, t), slate(t), false, []) as Vec3);
    worst = Math.max(worst, Math.abs(a), Math.abs(b));
  }
  return worst;
}
