import { bake, type Table } from '@inkavo/core/program/bake';
import type { Baked } from '@inkavo/core/program/baked';
import { Baker } from '@inkavo/core/program/baker';
import { compile, numbersChange, TABLE_DOMAIN, type Program } from '@inkavo/core/program/compile';
import { copyPicture, gradePicture, planesFor } from '@inkavo/core/program/cpu/gradePicture';
import { FixedKernel } from '@inkavo/core/program/cpu/fixedKernel';
import { Kernel, kernelTableBytes, writeKernelTable } from '@inkavo/core/program/cpu/kernel';
import { RowKernel } from '@inkavo/core/program/cpu/rowKernel';
import { NoiseKernel } from '@inkavo/core/noise/noiseKernel';
import { reduceNoise } from '@inkavo/core/noise/reduce';
import { sourceNoise } from '@inkavo/core/program/source';
import { pictureBytes, planesOver, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { cellSums } from '@inkavo/core/program/cpu/cellSums';
import type { SumCells } from '@inkavo/core/fields/smallPicture';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { gradeMemory } from './gradeMemory';
import { DONE, FULL, type Ring } from './ring';
import type { ExportBackend, ExportNoise, GradeTask } from './thread';

/** Grades this thread's frames of an export from and to the ring, until the clip ends or the export is stopped. */
export function gradeFrames(task: GradeTask, ring: Ring): void {
  const { memory, own } = task.ring;
  for (const [id, text] of Object.entries(task.luts)) provideLut(id, text);
  const backend = task.graded ? backendOf(task, own[task.first]) : undefined;
  const reduced = task.noise ? noiseReduction(task, ring, task.noise) : undefined;
  const { lead, count } = task.ring;
  for (let k = lead + task.first; k < lead + count && ring.waitFor(k, FULL); k += task.every) {
    const slot = k % task.ring.input.length;
    const seconds = task.startSeconds + (k - lead) * task.frameSeconds;
    const from = reduced ? reduced(k, seconds) : task.ring.input[slot];
    const to = task.ring.output[slot];
    if (from === undefined) return;
    if (backend) backend(from, to, seconds);
    else copyPicture(planesOver(memory.buffer, task.input, from), planesOver(memory.buffer, task.output, to));
    ring.set(k, DONE);
  }
}

/** Addresses of denoised frames, at a time of the clip; undefined: the export was stopped. */
function noiseReduction(
  task: GradeTask,
  ring: Ring,
  { module, offset }: ExportNoise,
): (k: number, seconds: number) => number | undefined {
  const { memory, input, own, reach } = task.ring;
  const out = own[task.first] + offset;
  const kernel = module
    ? new NoiseKernel(module, memory, task.input, out + 64 * Math.ceil(pictureBytes(task.input) / 64))
    : undefined;
  const address = (k: number): number => input[k % input.length];
  return (k, seconds) => {
    const amounts = sourceNoise(task.steps, seconds);
    if (!amounts) return address(k);
    const loaded = ring.waitLoaded(k + reach);
    if (loaded < 0) return undefined;
    const first = Math.max(0, k - reach);
    const last = Math.min(loaded - 1, k + reach);
    const numbers = Array.from({ length: last - first + 1 }, (_, i) => first + i);
    if (kernel) {
      const frames = numbers.map((number) => ({ number, address: address(number) }));
      kernel.reduce(frames, k - first, amounts, out);
    } else {
      const pictures = numbers.map((n) => planesOver(memory.buffer, task.input, address(n)));
      reduceNoise(pictures, k - first, amounts, planesOver(memory.buffer, task.input, out));
    }
    return out;
  };
}

/** Grades the picture at one address into another address, at a time of the clip. */
type Backend = (from: number, to: number, seconds: number) => void;

function backendOf(task: GradeTask, at: number): Backend {
  const { backend } = task;
  if (backend.name === 'kernel') return kernelBackend(task, backend.module, at);
  return backend.name === 'rows' ? rowBackend(task, backend, at) : plainBackend(task);
}

/** For times at which keyframed steps have no effect. */
const unchanged = (size: number): Table =>
  bake({ kind: 'table', domain: TABLE_DOMAIN, evaluate: () => undefined }, size);

function kernelBackend(task: GradeTask, module: WebAssembly.Module, at: number): Backend {
  const { memory } = task.ring;
  const { kernel: scratch } = gradeMemory(task.backend, task.input, task.output, task.size);
  const kernel = new Kernel(module, memory, task.input, task.output, at + scratch);
  const baker = new Baker();
  const idle = unchanged(task.size);
  let written: Table | undefined;
  return (from, to, seconds) => {
    const [op] = baker.bake(task.steps, seconds, task.size);
    const table = op?.kind === 'table' ? op.table : idle;
    if (table !== written) writeKernelTable(table, new Int16Array(memory.buffer, at, kernelTableBytes(task.size) / 2));
    written = table;
    kernel.grade(at, task.size, from, to);
  };
}

/** Ops and planes of each frame. `sum`: as for `downsample`. */
function bakedFrames(task: GradeTask, sum?: SumCells): (input: PlanarPicture, seconds: number) => Baked {
  const baker = new Baker();
  // If no number changes over the clip, one program suffices; only shapes and grain may change.
  const still = !numbersChange(task.steps);
  let last: Program | undefined;
  const programAt = (seconds: number): Program => {
    if (!last || !still) last = compile(task.steps, seconds);
    return { ...last, planes: last.planes.map((p) => (p.seconds === undefined ? p : { ...p, seconds })) };
  };
  return (input, seconds) => ({
    ops: baker.bake(task.steps, seconds, task.size),
    planes: planesFor(programAt(seconds), input, sum),
  });
}

function rowBackend(task: GradeTask, { module, capacity }: ExportBackend & { name: 'rows' }, at: number): Backend {
  const { memory } = task.ring;
  const places = gradeMemory(task.backend, task.input, task.output, task.size);
  const kernel = new RowKernel(module, memory, at + places.kernel, capacity);
  const fixed =
    places.fixed === undefined
      ? undefined
      : new FixedKernel(module, memory, at + places.fixed, capacity, task.input, task.output);
  const baked = bakedFrames(task, cellSums(module, memory, at));
  return (from, to, seconds) => {
    const input = planesOver(memory.buffer, task.input, from);
    const grade = baked(input, seconds);
    if (fixed?.takes(grade)) {
      fixed.setGrade(grade);
      fixed.picture(from, to);
    } else {
      kernel.setGrade(grade);
      kernel.picture(input, planesOver(memory.buffer, task.output, to));
    }
  };
}

function plainBackend(task: GradeTask): Backend {
  const { buffer } = task.ring.memory;
  const baked = bakedFrames(task);
  return (from, to, seconds) => {
    const input = planesOver(buffer, task.input, from);
    gradePicture(baked(input, seconds), input, planesOver(buffer, task.output, to));
  };
}
