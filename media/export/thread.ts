import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { setPriority } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import type { Step } from '@inkavo/core/model/grade';
import { bake, type Table } from '@inkavo/core/program/bake';
import type { Baked } from '@inkavo/core/program/baked';
import { Baker } from '@inkavo/core/program/baker';
import { compile, TABLE_DOMAIN } from '@inkavo/core/program/compile';
import { copyPicture, gradePicture, mapsFor } from '@inkavo/core/program/cpu/gradePicture';
import { Kernel, kernelTableBytes, writeKernelTable } from '@inkavo/core/program/cpu/kernel';
import { RowKernel, type RowKernelRoom } from '@inkavo/core/program/cpu/rowKernel';
import { planesOver, type PlanarFormat, type PlanarPicture } from '@inkavo/core/program/cpu/planar';
import { provideLut } from '@inkavo/core/steps/lut/library';
import { DONE, FREE, FULL, Ring, type RingMemory } from './ring';

/**
 * What grades: the kernel for one table (see `kernelTakes`), the kernel for anything else with the room that it needs, or
 * the plain backend where the kernel has not been built.
 */
export type ExportBackend =
  | { name: 'kernel'; module: WebAssembly.Module }
  | { name: 'rows'; module: WebAssembly.Module; room: RowKernelRoom }
  | { name: 'plain' };

/** What one thread of an export is told to do. */
export type ThreadTask =
  | { role: 'read'; ring: RingMemory; pipe: string; bytes: number }
  | { role: 'write'; ring: RingMemory; pipe: string; bytes: number }
  | {
      role: 'grade';
      ring: RingMemory;
      backend: ExportBackend;
      /** False: pictures are passed on as they are, both formats are the same. */
      graded: boolean;
      /** Nodes an edge of the tables. */
      size: number;
      /** This thread takes frames first, first + every, … */
      first: number;
      every: number;
      steps: Step[];
      /** Text of the tables that steps use, by id. */
      luts: Record<string, string>;
      input: PlanarFormat;
      output: PlanarFormat;
      /** Clip time of frame 0 of the export, and of one frame. */
      startSeconds: number;
      frameSeconds: number;
    };

/** What a thread says: its end of the pipe is open; its work is done to the end, or to where it was stopped. */
export type ThreadNote = 'open' | 'done';
const say = (note: ThreadNote): void => parentPort?.postMessage(note);

/** Niceness of the threads: a server that exports must still answer. */
const BACKGROUND = 10;

type GradeTask = ThreadTask & { role: 'grade' };

function read(task: Extract<ThreadTask, { role: 'read' }>, ring: Ring): void {
  const fd = openSync(task.pipe, 'r');
  say('open');
  try {
    for (let k = 0; ; k += 1) {
      if (!ring.waitFor(k, FREE)) return;
      const target = new Uint8Array(task.ring.memory.buffer, task.ring.input[k % task.ring.input.length], task.bytes);
      let filled = 0;
      while (filled < task.bytes) {
        const got = readSync(fd, target, filled, task.bytes - filled, null);
        if (got === 0) return ring.end(k);
        filled += got;
      }
      ring.set(k, FULL);
    }
  } finally {
    closeSync(fd);
  }
}

function write(task: Extract<ThreadTask, { role: 'write' }>, ring: Ring): void {
  const fd = openSync(task.pipe, 'w');
  say('open');
  try {
    for (let k = 0; ring.waitFor(k, DONE); k += 1) {
      const source = new Uint8Array(task.ring.memory.buffer, task.ring.output[k % task.ring.output.length], task.bytes);
      let sent = 0;
      while (sent < source.length) {
        const wrote = writeOrBroken(fd, source, sent);
        // The encoder is gone: why, it says itself.
        if (wrote === undefined) return;
        sent += wrote;
      }
      ring.countWritten();
      ring.set(k, FREE);
    }
  } finally {
    closeSync(fd);
  }
}

/** Writes what the pipe takes; undefined when nobody reads from it any more. */
function writeOrBroken(fd: number, source: Uint8Array, from: number): number | undefined {
  try {
    return writeSync(fd, source, from, source.length - from);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EPIPE') return undefined;
    throw error;
  }
}

function grade(task: GradeTask, ring: Ring): void {
  const { memory, own } = task.ring;
  for (const [id, text] of Object.entries(task.luts)) provideLut(id, text);
  const backend = task.graded ? backendOf(task, own[task.first]) : undefined;
  const seconds = (k: number): number => task.startSeconds + k * task.frameSeconds;
  for (let k = task.first; ring.waitFor(k, FULL); k += task.every) {
    const slot = k % task.ring.input.length;
    const [from, to] = [task.ring.input[slot], task.ring.output[slot]];
    if (backend) backend(from, to, seconds(k));
    else copyPicture(planesOver(memory.buffer, task.input, from), planesOver(memory.buffer, task.output, to));
    ring.set(k, DONE);
  }
}

/** Takes the picture at one address through the grade at a time of the clip to another address. */
type Backend = (from: number, to: number, seconds: number) => void;

function backendOf(task: GradeTask, at: number): Backend {
  const { backend } = task;
  if (backend.name === 'kernel') return kernelBackend(task, backend.module, at);
  return backend.name === 'rows' ? rowBackend(task, backend, at) : plainBackend(task);
}

/** For the moments at which keyframed steps do nothing. */
const unchanged = (size: number): Table => bake({ kind: 'lut', domain: TABLE_DOMAIN, evaluate: () => undefined }, size);

function kernelBackend(task: GradeTask, module: WebAssembly.Module, at: number): Backend {
  const { memory } = task.ring;
  const bytes = kernelTableBytes(task.size);
  const kernel = new Kernel(module, memory, task.input, task.output, at + Math.ceil(bytes / 16) * 16);
  const baker = new Baker();
  const idle = unchanged(task.size);
  let written: Table | undefined;
  return (from, to, seconds) => {
    const [pass] = baker.bake(task.steps, seconds, task.size);
    const table = pass?.kind === 'lut' ? pass.table : idle;
    if (table !== written) writeKernelTable(table, new Int16Array(memory.buffer, at, bytes / 2));
    written = table;
    kernel.grade(at, task.size, from, to);
  };
}

/** The passes and maps of each frame as its time comes. */
function bakedFrames(task: GradeTask): (input: PlanarPicture, seconds: number) => Baked {
  const baker = new Baker();
  return (input, seconds) => ({
    passes: baker.bake(task.steps, seconds, task.size),
    maps: mapsFor(compile(task.steps, seconds), input),
  });
}

function rowBackend(task: GradeTask, { module, room }: ExportBackend & { name: 'rows' }, at: number): Backend {
  const { memory } = task.ring;
  const kernel = new RowKernel(module, memory, at, room);
  const baked = bakedFrames(task);
  return (from, to, seconds) => {
    const input = planesOver(memory.buffer, task.input, from);
    kernel.setGrade(baked(input, seconds));
    kernel.picture(input, planesOver(memory.buffer, task.output, to));
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

const task = workerData as ThreadTask;
// On Linux the priority of process 0 is that of the calling thread.
setPriority(0, BACKGROUND);
const ring = new Ring(task.ring);
if (task.role === 'read') read(task, ring);
else if (task.role === 'write') write(task, ring);
else grade(task, ring);
say('done');
