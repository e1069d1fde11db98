/**
 * The ring through which frames pass between the threads of an export. All memory is shared and allocated once, so it
 * does not grow with the clip. Each slot holds one decoded and one graded frame, and is in one state at a time.
 */
const SLOTS = 4;
export const FREE = 0;
export const FULL = 1;
export const DONE = 2;

// Words of the control memory; the states of the slots follow.
const TOTAL = 0;
const WRITTEN = 1;
const STOP = 2;
const LOADED = 3;
const STATES = 4;

/** Which of the decoded frames are delivered. Those before and after are there for their neighbours. */
export interface Delivered {
  /** Frames before the first that is delivered. */
  lead: number;
  count: number;
  /** Frames on either side that grading reads. */
  reach: number;
}

export interface RingMemory extends Delivered {
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

/** Bytes of a decoded picture, of a graded one, and of a grading thread's own part. */
export interface RingSizes {
  inputBytes: number;
  outputBytes: number;
  ownBytes: number;
}

/** What a WebAssembly memory holds at most. */
const MOST_BYTES = 2 ** 32 - PAGE;
const aligned = (bytes: number): number => Math.ceil(bytes / ALIGN) * ALIGN;
// A frame stays as long as its neighbours read it.
const slotsFor = ({ reach }: Delivered): number => SLOTS + 2 * reach;

/** Grading threads that there is memory for; 0: not even for one. */
export function mostThreads(delivered: Delivered, { inputBytes, outputBytes, ownBytes }: RingSizes): number {
  const pictures = slotsFor(delivered) * (aligned(inputBytes) + aligned(outputBytes));
  return Math.max(0, Math.floor((MOST_BYTES - ALIGN - pictures) / aligned(ownBytes)));
}

/** Lays out the memory for pictures of these sizes, and `ownBytes` for each of `threads` grading threads. */
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

/** One thread's view of the ring. */
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

  /** Waits until the slot of frame k has a state. False: there is no frame k, or the work was stopped. */
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

  /** Waits until frame k is in the ring, and every one before it. The number of frames that are or were; −1: stopped. */
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

  /** Frame k has been written: what nobody reads any more is free. */
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

  /** Announces that the clip ended after this many frames. */
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

  /** Every frame that is delivered has been written, or all that there were. */
  get atEnd(): boolean {
    const { lead, count } = this.memory;
    const total = Atomics.load(this.control, TOTAL);
    return this.written === count || (total >= 0 && this.written === Math.max(0, total - lead));
  }

  private wakeAll(): void {
    for (let word = 0; word < STATES + this.slots; word += 1) Atomics.notify(this.control, word);
  }
}
