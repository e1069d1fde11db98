import { transfer } from 'comlink';
import type { MediaFacts } from '@inkavo/core/model/facts';
import { api } from '../api/client';
import type { CellsOfFile } from './frame';
import { engine } from './workers';

/**
 * Cells of the frame at rest, averaged over the file's own pixels: what planes of haze and water are made from in an export,
 * and so here, whatever size the frame has on the screen. Fetched only where a grade has such planes; where they can't be had
 * those of the picture on the screen serve.
 */
export class FileCells {
  private running: AbortController | undefined;
  /** The frame whose cells the measuring worker has, or will have. */
  private frame: number | undefined;

  /** `state`: called when cells begin to be awaited for planes that are shown already, and when they have come. */
  constructor(
    private readonly clipId: string,
    private readonly facts: MediaFacts,
    private readonly state: (now: 'coming' | 'here') => void,
  ) {}

  /** Another frame is wanted, or none. */
  stop(): void {
    this.running?.abort();
    this.frame = undefined;
  }

  /** The cells of a frame that comes next; undefined where they can't be had or aren't wanted any more. */
  async of(frame: number): Promise<CellsOfFile | undefined> {
    this.running?.abort();
    this.frame = frame;
    const { signal } = (this.running = new AbortController());
    const code = await api.cells(this.clipId, frame, signal).catch(() => undefined);
    const { width, height } = this.facts;
    return code && !signal.aborted ? { code, width, height } : undefined;
  }

  /** Planes were made of the frame at rest: unless it has its cells, they follow, and `state` hears of it. */
  async follow(frame: number): Promise<void> {
    if (this.frame === frame) return;
    this.state('coming');
    const cells = await this.of(frame);
    // Another frame has cells of its own.
    if (this.frame !== frame) return;
    if (cells) await engine().scopes.setCells(transfer(cells, [cells.code.buffer as ArrayBuffer]));
    this.state('here');
  }
}
