import { newStep, type Step } from '@inkavo/core/model/grade';
import { shrink } from '@inkavo/core/fields/smallPicture';
import { bakePasses } from '@inkavo/core/program/baked';
import { compile } from '@inkavo/core/program/compile';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { mapsOf } from '@inkavo/core/program/maps';
import { median } from './grades';

const format: PlanarFormat = {
  width: 1920,
  height: 1080,
  depth: 8,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
};
const ROUNDS = 5;

/** Spatial steps on the plain CPU backend, against one table, and how long their maps take. */
export function benchFields(): void {
  const input = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  const output = planesOver(new ArrayBuffer(pictureBytes(format)), format);
  for (const plane of [input.y, input.cb, input.cr]) plane.forEach((_, i) => (plane[i] = 40 + ((i * 7919) % 160)));
  const range = newStep('range', 'r', { black: -0.03 });
  const grades: Record<string, Step[]> = {
    'one table': [range],
    water: [newStep('water', 'w', { depth: 8, veilRed: 0.2, veilGreen: 0.5, veilBlue: 0.4 }), range],
    haze: [newStep('haze', 'h', { amount: 0.9 }), range],
  };
  const times: Record<string, { grade: number[]; map: number[] }> = {};
  const clock = (f: () => void): number => {
    const from = performance.now();
    f();
    return performance.now() - from;
  };
  // Alternated, so that a busy moment hits all.
  for (let round = 0; round < ROUNDS; round += 1)
    for (const [name, steps] of Object.entries(grades)) {
      const program = compile(steps, 0);
      const passes = bakePasses(program, 33);
      const at = (times[name] ??= { grade: [], map: [] });
      let maps = mapsOf(program, shrink(input));
      at.map.push(clock(() => (maps = mapsOf(program, shrink(input)))));
      at.grade.push(clock(() => gradePicture({ passes, maps }, input, output)));
    }
  const base = median(times['one table'].grade);
  for (const [name, { grade, map }] of Object.entries(times)) {
    const pixels = format.width * format.height;
    console.log(
      `${name}: ${((1e6 * median(grade)) / pixels).toFixed(0)} ns a pixel on one thread, ${(median(grade) / base).toFixed(2)} of one table` +
        (name === 'one table' ? '' : `; its map ${median(map).toFixed(0)} ms a 1080p frame`),
    );
  }
}
