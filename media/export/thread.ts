import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import type { Step } from '@inkavo/core/model/grade';
import { bake, REST_SIZE, type Table } from '@inkavo/core/program/bake';
import { changesOverTime, compile } from '@inkavo/core/program/compile';
import { copyPicture, gradePicture } from '@inkavo/core/program/cpu/gradePicture';
import { planesOver, type PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { DONE, FREE, FULL, Ring, type RingMemory } from './ring';

/** What one thread of an export is told to do. */
export type ThreadTask =
  | { role: 'read'; ring: RingMemory; pipe: string; bytes: number }
  | { role: 'write'; ring: RingMemory; pipe: string }
  | {
      role: 'grade';
      ring: RingMemory;
      /** This thread takes frames first, first + every, … */
      first: number;
      every: number;
      steps: Step[];
      input: PlanarFormat;
      output: PlanarFormat;
      /** Clip time of frame 0 of the export, and of one frame. */
      startSeconds: number;
      frameSeconds: number;
    };

function read(task: Extract<ThreadTask, { role: 'read' }>, ring: Ring): void {
  const fd = openSync(task.pipe, 'r');
  parentPort?.postMessage('open');
  try {
    for (let k = 0; ; k += 1) {
      if (!ring.waitFor(k, FREE)) return;
      const target = new Uint8Array(task.ring.input[k % task.ring.input.length], 0, task.bytes);
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
  parentPort?.postMessage('open');
  try {
    for (let k = 0; ring.waitFor(k, DONE); k += 1) {
      const source = new Uint8Array(task.ring.output[k % task.ring.output.length]);
      let sent = 0;
      while (sent < source.length) sent += writeSync(fd, source, sent, source.length - sent);
      ring.countWritten();
      ring.set(k, FREE);
    }
  } finally {
    closeSync(fd);
  }
}

function grade(task: Extract<ThreadTask, { role: 'grade' }>, ring: Ring): void {
  const timed = changesOverTime(task.steps);
  const tableAt = (k: number): Table | undefined => {
    const [pass] = compile(task.steps, task.startSeconds + k * task.frameSeconds, task.input).passes;
    return pass && bake(pass, timed ? 33 : REST_SIZE);
  };
  let table = tableAt(0);
  for (let k = task.first; ring.waitFor(k, FULL); k += task.every) {
    if (timed) table = tableAt(k);
    const slot = k % task.ring.input.length;
    const input = planesOver(task.ring.input[slot], task.input);
    const output = planesOver(task.ring.output[slot], task.output);
    if (table) gradePicture(table, input, output);
    else copyPicture(input, output);
    ring.set(k, DONE);
  }
}

const task = workerData as ThreadTask;
const ring = new Ring(task.ring);
if (task.role === 'read') read(task, ring);
else if (task.role === 'write') write(task, ring);
else grade(task, ring);
