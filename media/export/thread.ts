import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { setPriority } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import type { Step } from '@inkavo/core/model/grade';
import type { RowKernelCapacity } from '@inkavo/core/program/cpu/rowCapacity';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { DONE, FREE, FULL, Ring, type RingMemory } from './ring';

/**
 * The grading backend: the kernel for one table (see `kernelTakes`), the kernel for everything else with its capacity,
 * or the plain backend if the kernel has not been built.
 */
export type ExportBackend =
  | { name: 'kernel'; module: WebAssembly.Module }
  | { name: 'rows'; module: WebAssembly.Module; capacity: RowKernelCapacity }
  | { name: 'plain' };

/**
 * Noise reduction before anything else: address of its memory in a thread's own part. `module` null: the plain
 * implementation.
 */
export interface ExportNoise {
  module: WebAssembly.Module | null;
  offset: number;
}

/** Task of one thread of an export. */
export type ThreadTask =
  | { role: 'read'; ring: RingMemory; pipe: string; bytes: number }
  | { role: 'write'; ring: RingMemory; pipe: string; bytes: number }
  | {
      role: 'grade';
      ring: RingMemory;
      backend: ExportBackend;
      noise?: ExportNoise;
      /** False: pictures are passed through; both formats are equal. */
      graded: boolean;
      /** Nodes per edge of the tables. */
      size: number;
      /** This thread processes frames first, first + every, … of the delivered ones. */
      first: number;
      every: number;
      steps: Step[];
      /** Text of the tables that steps use, by id. */
      luts: Record<string, string>;
      input: PlanarFormat;
      output: PlanarFormat;
      /** Clip time of frame 0 of the export, and duration of a frame. */
      startSeconds: number;
      frameSeconds: number;
    };

/** Message of a thread when it has finished or was stopped. */
export type ThreadNote = 'done';

/** Niceness of the threads, so that the server stays responsive during exports. */
const BACKGROUND = 10;

export type GradeTask = ThreadTask & { role: 'grade' };

function read(task: Extract<ThreadTask, { role: 'read' }>, ring: Ring): void {
  const fd = openSync(task.pipe, 'r');
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
      ring.countLoaded();
    }
  } finally {
    closeSync(fd);
  }
}

function write(task: Extract<ThreadTask, { role: 'write' }>, ring: Ring): void {
  const fd = openSync(task.pipe, 'w');
  try {
    const { lead, count } = task.ring;
    for (let k = lead; k < lead + count && ring.waitFor(k, DONE); k += 1) {
      const source = new Uint8Array(task.ring.memory.buffer, task.ring.output[k % task.ring.output.length], task.bytes);
      let sent = 0;
      while (sent < source.length) {
        const wrote = writeOrBroken(fd, source, sent);
        // The encoder is gone, and reports the reason itself.
        if (wrote === undefined) return;
        sent += wrote;
      }
      ring.release(k);
    }
  } finally {
    closeSync(fd);
  }
}

/** Writes to the pipe; undefined if its reader is gone. */
function writeOrBroken(fd: number, source: Uint8Array, from: number): number | undefined {
  try {
    return writeSync(fd, source, from, source.length - from);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EPIPE') return undefined;
    throw error;
  }
}

async function work(): Promise<void> {
  const task = workerData as ThreadTask;
  // On Linux the priority of process 0 is that of the calling thread.
  setPriority(0, BACKGROUND);
  const ring = new Ring(task.ring);
  if (task.role === 'read') read(task, ring);
  else if (task.role === 'write') write(task, ring);
  // The engine is loaded on demand: threads that only move bytes start at once.
  else (await import('./gradeFrames')).gradeFrames(task, ring);
  parentPort?.postMessage('done' satisfies ThreadNote);
}

void work();
