/**
 * The ring buffer through which frames pass between the threads of an export. All memory is shared and allocated once,
 * independent of the clip's length. Each slot holds one decoded and one graded frame, and has one state at a time.
 */
const SLOTS = 4;
export const FREE = 0;
export const FULL = 1;
export const DONE = 2;

// Words of the control memory, followed by the states of the slots.
const TOTAL = 0;
const WRITTEN = 1;
const STOP = 2;
const LOADED = 3;
const STATES = 4;

/** Range of delivered frames among the decoded ones. The others are only read as neighbours. */
export interface Delivered {
  /** Number of frames before the first delivered one. */
  lead: number;
  count: number;
  /** Number of neighbouring frames on either side that grading reads. */
  reach: number;
}

export interface RingMemory extends Delivered {
  control: SharedArrayBuffer;
  /** All pictures, tables and scratch space of an export: one shared memory, in which the kernel works. */
  memory: WebAssembly.Memory;
  /** Addresses of the slots' pictures, and of each grading thread's own part. */
  input: number[];
  output: number[];
  own: number[];
}

const PAGE = 65536;
/** Alignment of pictures. */
const ALIGN = 64;

/** Bytes of a decoded picture, of a graded one, and of a grading thread's own part. */
export interface RingSizes {
  inputBytes: number;
  outputBytes: number;
  ownBytes: number;
}

/** Maximum size of a WebAssembly memory. */
const MOST_BYTES = 2 ** 32 - PAGE;
const aligned = (bytes: number): number => Math.ceil(bytes / ALIGN) * ALIGN;
// A frame stays as long as its neighbours need it.
const slotsFor = ({ reach }: Delivered): number => SLOTS + 2 * reach;

/** Number of grading threads that fit into memory; 0: not even one. */
export function mostThreads(delivered: Delivered, { inputBytes, outputBytes, ownBytes }: RingSizes): number {
  const pictures = slotsFor(delivered) * (aligned(inputBytes) + aligned(outputBytes));
  return Math.max(0, Math.floor((MOST_BYTES - ALIGN - pictures) / aligned(ownBytes)));
}

/** Computes the layout for pictures of these sizes, and `ownBytes` for each of `threads` grading threads. */
export function allocateRing(
  delivered: Delivered,
  { inputBytes, outputBytes, ownBytes }: RingSizes,
  threads: number,
): RingMemory {
  const slots = slotsFor(delivered);
  const control = new SharedArrayBuffer(4 * (STATES + slots));
  new Int32Array(control)[TOTAL] = -1;
  let end = 0;
  const take = (bytes: number, count: number): number[] =>
    Array.from({ length: count }, () => {
      const at = end;
      end += aligned(bytes);
      return at;
    });
  const layout = { own: take(ownBytes, threads), input: take(inputBytes, slots), output: take(outputBytes, slots) };
  // A row's last block may read a few bytes beyond its picture.
  const pages = Math.ceil((end + ALIGN) / PAGE);
  return {
    ...delivered,
    control,
    memory: new WebAssembly.Memory({ initial: pages, maximum: pages, shared: true }),
    ...layout,
  };
}

/** A thread's view of the ring. */
export class Ring {
  private readonly control: Int32Array;
  private readonly slots: number;
  constructor(readonly memory: RingMemory) {
    this.control = new Int32Array(memory.control);
    this.slots = memory.input.length;
  }

  private word(k: number): number {
    return STATES + (k % this.slots);
  }

  /** Waits until the slot of frame k reaches a state. False: there is no frame k, or the export was stopped. */
  waitFor(k: number, state: number): boolean {
    const slot = this.word(k);
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

  /** Waits until frame k and all before it are in the ring. Returns the number of frames so far; −1: stopped. */
  waitLoaded(k: number): number {
    for (;;) {
      if (Atomics.load(this.control, STOP)) return -1;
      const loaded = Atomics.load(this.control, LOADED);
      if (loaded > k || Atomics.load(this.control, TOTAL) >= 0) return Atomics.load(this.control, LOADED);
      Atomics.wait(this.control, LOADED, loaded, 50);
    }
  }

  countLoaded(): void {
    Atomics.add(this.control, LOADED, 1);
    Atomics.notify(this.control, LOADED);
  }

  /** Frame k has been written: slots that nobody reads any more are released. */
  release(k: number): void {
    Atomics.add(this.control, WRITTEN, 1);
    const past = k - this.memory.reach;
    if (past >= 0) this.set(past, FREE);
  }

  set(k: number, state: number): void {
    const slot = this.word(k);
    Atomics.store(this.control, slot, state);
    Atomics.notify(this.control, slot);
  }

  /** Announces the end of the clip after this many frames. */
  end(total: number): void {
    Atomics.store(this.control, TOTAL, total);
    this.wakeAll();
  }

  stop(): void {
    Atomics.store(this.control, STOP, 1);
    this.wakeAll();
  }

  get written(): number {
    return Atomics.load(this.control, WRITTEN);
  }

  /** All delivered frames have been written, or all that there were. */
  get atEnd(): boolean {
    const { lead, count } = this.memory;
    const total = Atomics.load(this.control, TOTAL);
    return this.written === count || (total >= 0 && this.written === Math.max(0, total - lead));
  }

  private wakeAll(): void {
    for (let word = 0; word < STATES + this.slots; word += 1) Atomics.notify(this.control, word);
  }
}
