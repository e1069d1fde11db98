/**
 * The ring through which frames pass between the threads of an export. All memory is shared and allocated once, so it
 * does not grow with the clip. Each slot holds one decoded and one graded frame, and is in one state at a time.
 */
export const SLOTS = 4;
export const FREE = 0;
export const FULL = 1;
export const DONE = 2;

const TOTAL = SLOTS;
const WRITTEN = SLOTS + 1;
const STOP = SLOTS + 2;

export interface RingMemory {
  control: SharedArrayBuffer;
  /** All pictures, tables and scratch of an export: one shared memory, which the kernel works in. */
  memory: WebAssembly.Memory;
  /** Addresses of the slots' pictures, and of each grading thread's own part. */
  input: number[];
  output: number[];
  own: number[];
}

const PAGE = 65536;
/** Pictures start at multiples of this. */
const ALIGN = 64;

/** Lays out the memory for pictures of these sizes, and `ownBytes` for each of `threads` grading threads. */
export function allocateRing(inputBytes: number, outputBytes: number, ownBytes: number, threads: number): RingMemory {
  const control = new SharedArrayBuffer(4 * (SLOTS + 3));
  new Int32Array(control)[TOTAL] = -1;
  let end = 0;
  const take = (bytes: number, count: number): number[] =>
    Array.from({ length: count }, () => {
      const at = end;
      end += Math.ceil(bytes / ALIGN) * ALIGN;
      return at;
    });
  const layout = { own: take(ownBytes, threads), input: take(inputBytes, SLOTS), output: take(outputBytes, SLOTS) };
  // A row's last block may read a few bytes beyond its picture.
  const pages = Math.ceil((end + ALIGN) / PAGE);
  return { control, memory: new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true }), ...layout };
}

/** One thread's view of the ring. */
export class Ring {
  private readonly control: Int32Array;
  constructor(readonly memory: RingMemory) {
    this.control = new Int32Array(memory.control);
  }

  /** Waits until the slot of frame k has a state. False: there is no frame k, or the work was stopped. */
  waitFor(k: number, state: number): boolean {
    const slot = k % SLOTS;
    for (;;) {
      if (Atomics.load(this.control, STOP)) return false;
      const now = Atomics.load(this.control, slot);
      if (now === state) return true;
      const total = Atomics.load(this.control, TOTAL);
      if (total >= 0 && k >= total) return false;
      // The time-out covers an end announced between the checks above and the wait.
      Atomics.wait(this.control, slot, now, 50);
    }
  }

  set(k: number, state: number): void {
    const slot = k % SLOTS;
    Atomics.store(this.control, slot, state);
    Atomics.notify(this.control, slot);
  }

  /** Announces that the clip ended after this many frames. */
  end(total: number): void {
    Atomics.store(this.control, TOTAL, total);
    this.wakeAll();
  }

  stop(): void {
    Atomics.store(this.control, STOP, 1);
    this.wakeAll();
  }

  countWritten(): void {
    Atomics.add(this.control, WRITTEN, 1);
  }

  get written(): number {
    return Atomics.load(this.control, WRITTEN);
  }

  /** Every frame of the clip has been written. */
  get atEnd(): boolean {
    return Atomics.load(this.control, TOTAL) === this.written;
  }

  private wakeAll(): void {
    for (let slot = 0; slot < SLOTS; slot += 1) Atomics.notify(this.control, slot);
  }
}
