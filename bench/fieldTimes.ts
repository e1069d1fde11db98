import { newStep, type Step } from '@inkavo/core/model/grade';
import { downsample } from '@inkavo/core/fields/smallPicture';
import { bakeOps } from '@inkavo/core/program/baked';
import { compile } from '@inkavo/core/program/compile';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { pictureBytes, planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { RowKernel } from '@inkavo/core/program/cpu/rowKernel';
import { rowKernelBytes } from '@inkavo/core/program/cpu/rowCapacity';
import { planesOf } from '@inkavo/core/program/planes';
import { kernelModule } from '@inkavo/media/kernelFile';
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
const PIXELS = format.width * format.height;

/** Variants: the same grade on the plain backend and in the kernel, and its map. */
interface Times {
  plain: number[];
  kernel: number[];
  map: number[];
}

/** Spatial steps on the CPU, plain and in the kernel, relative to one table, and the time for their planes. */
export function benchFields(): void {
  const module = kernelModule();
  if (!module) throw new Error('The kernel is not built: bash scripts/kernel.sh');
  const capacity = {
    width: format.width,
    tables: 2,
    points: 1,
    stencils: 0,
    spread: 0,
    maps: 1,
    size: 33,
    shaper: 0,
    shapes: 0,
  };
  const inAt = Math.ceil(rowKernelBytes(capacity) / 64) * 64;
  const pages = Math.ceil((inAt + 2 * pictureBytes(format) + 64) / 65536);
  const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
  const kernel = new RowKernel(module, memory, 0, capacity);
  const input = planesOver(memory.buffer, format, inAt);
  const output = planesOver(memory.buffer, format, inAt + pictureBytes(format));
  for (const plane of [input.y, input.cb, input.cr]) plane.forEach((_, i) => (plane[i] = 40 + ((i * 7919) % 160)));
  const range = newStep('range', 'r', { black: -0.03 });
  const grades: Record<string, Step[]> = {
    'one table': [range],
    water: [newStep('water', 'w', { depth: 8, veilRed: 0.2, veilGreen: 0.5, veilBlue: 0.4 }), range],
    haze: [newStep('haze', 'h', { amount: 0.9 }), range],
  };
  const times: Record<string, Times> = {};
  const clock = (f: () => void): number => {
    const from = performance.now();
    f();
    return performance.now() - from;
  };
  // Alternated, so that other load affects all equally.
  for (let round = 0; round < ROUNDS; round += 1)
    for (const [name, steps] of Object.entries(grades)) {
      const program = compile(steps, 0);
      const ops = bakeOps(program, 33);
      const at = (times[name] ??= { plain: [], kernel: [], map: [] });
      let planes = planesOf(program, downsample(input));
      at.map.push(clock(() => (planes = planesOf(program, downsample(input)))));
      at.plain.push(clock(() => gradePicture({ ops, planes }, input, output)));
      kernel.setGrade({ ops, planes });
      at.kernel.push(clock(() => kernel.picture(input, output)));
    }
  const base = median(times['one table'].plain);
  const ns = (list: number[]): string => ((1e6 * median(list)) / PIXELS).toFixed(1);
  for (const [name, { plain, kernel: fast, map }] of Object.entries(times))
    console.log(
      `${name}: plain ${ns(plain)} ns a pixel on one thread, ${(median(plain) / base).toFixed(2)} of one table; ` +
        `kernel ${ns(fast)} ns, ${(median(fast) / median(plain)).toFixed(3)} of plain` +
        (name === 'one table' ? '' : `; its map ${median(map).toFixed(0)} ms a 1080p frame`),
    );
}
