import { bake } from '@inkavo/core/program/bake';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { Kernel, kernelScratchBytes, kernelTableBytes, writeKernelTable } from '@inkavo/core/program/cpu/kernel';
import { pictureBytes, planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { kernelModule } from '@inkavo/media/kernelFile';
import { EIGHT, median, ms } from './grades';

const INPUT: PlanarFormat = {
  width: 3840,
  height: 2160,
  depth: 10,
  chroma: '420',
  range: 'limited',
  matrix: 'bt709',
  chromaSite: 'left',
};
const OUTPUT: PlanarFormat = { ...INPUT, depth: 8 };
const PIXELS = INPUT.width * INPUT.height;

/** Nanoseconds per pixel of the kernel, one thread, 4K 10 bit in and 8 bit out, relative to the plain backend. */
export function benchKernel(): void {
  const module = kernelModule();
  if (!module) throw new Error('The kernel is not built: bash scripts/kernel.sh');
  const pass = tableOf(compile(EIGHT, 0));
  let plainNs = 0;
  for (const size of [33, 65]) {
    const table = bake(pass, size);
    const inAt = kernelTableBytes(size);
    const aligned = Math.ceil(inAt / 64) * 64;
    const outAt = aligned + pictureBytes(INPUT);
    const scratch = Math.ceil((outAt + pictureBytes(OUTPUT)) / 64) * 64;
    const pages = Math.ceil((scratch + kernelScratchBytes(INPUT.width)) / 65536);
    const memory = new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true });
    writeKernelTable(table, new Int16Array(memory.buffer, 0, table.data.length));
    const input = planesOver(memory.buffer, INPUT, aligned);
    // A picture with soft shapes and noise, like footage.
    for (let i = 0; i < PIXELS; i += 1)
      input.y[i] = 400 + 180 * Math.sin(i / 900) + 100 * Math.sin(i / 3840 / 200) + ((i * 7919) % 17);
    input.cb.forEach((_, i) => (input.cb[i] = 512 + 40 * Math.sin(i / 700) + ((i * 31) % 5)));
    input.cr.forEach((_, i) => (input.cr[i] = 512 + 40 * Math.cos(i / 1100) + ((i * 37) % 5)));
    const kernel = new Kernel(module, memory, INPUT, OUTPUT, scratch);
    const times: number[] = [];
    for (let k = 0; k < 9; k += 1) {
      const t = performance.now();
      kernel.grade(0, size, aligned, outAt);
      times.push(ms(t));
    }
    if (!plainNs) {
      const t = performance.now();
      gradePicture(table, input, planesOver(memory.buffer, OUTPUT, outAt));
      plainNs = (ms(t) * 1e6) / PIXELS;
    }
    const ns = (median(times) * 1e6) / PIXELS;
    console.log(
      `kernel, table ${size}³: ${ns.toFixed(1)} ns a pixel, ${(ns / plainNs).toFixed(3)} of the plain backend (${plainNs.toFixed(0)} ns)`,
    );
  }
}
