import { transfer } from 'comlink';
import type { MediaFacts } from '@inkavo/core/model/facts';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { planesFrom, planesKey } from '@inkavo/core/program/plan';
import type { Planes } from '@inkavo/core/program/planes';
import type { FileEnds } from '@inkavo/core/scopes/statistics';
import { api } from '../../api/client';
import { useBench } from '../../state/bench';
import { askedNoise } from './askedNoise';
import type { CellsOfFile, Moment } from '../worker/frame';
import type { ScreenPicture } from '../picture/screenPicture';
import { engine } from '../workers';

/**
 * The planes of the frame that is shown. At rest, those of haze and water are made from the file's own pixels averaged over
 * cells, as in an export, whatever size the frame has on the screen; the cells are fetched only where a grade has such planes,
 * and where they can't be had those of the picture on the screen serve.
 */
export class FramePlanes {
  private running: AbortController | undefined;
  /** The frame at rest whose cells the measuring worker has, or will have. */
  private frame: number | undefined;
  /** Counts the frames and cells that planes are made from. */
  private version = 0;
  /** The planes of the frame at rest that were made last; those of other frames, or of other cells, are others. */
  private made: { key: string; planes: Planes } | undefined;

  /** `followed`: called when cells have come for planes that are shown already. */
  constructor(
    private readonly clipId: string,
    private readonly facts: MediaFacts,
    private readonly picture: ScreenPicture,
    private readonly canvas: HTMLCanvasElement,
    private readonly followed: () => void,
  ) {}

  /** What was made is of other pixels than those that come. */
  private forget(): void {
    this.version += 1;
    this.made = undefined;
  }

  /** Another frame is wanted, or none. */
  stop(): void {
    this.running?.abort();
    this.frame = undefined;
    this.forget();
  }

  /** The planes of a grade: of the frame at rest, which is the one that is measured, or of the one that the video shows. */
  async at(moment: Moment, moving: boolean): Promise<Planes> {
    const from = planesFrom(moment.steps, moment.seconds, moment.show);
    if (from === 'nothing') return [];
    const { steps, seconds, show } = moment;
    const key = planesKey(steps, seconds, show);
    // A later step may change as it likes: neither worker has to be asked.
    if (!moving && this.made?.key === key) return this.made.planes;
    // Shapes need no frame: the worker that bakes is free to make them while the other one measures.
    if (from === 'shapes') {
      const planes = await engine().tables.masks(moment, this.facts.width / this.facts.height);
      if (!moving) this.made = { key, planes };
      return planes;
    }
    const small = moving ? await this.picture.smallMoving(this.facts) : null;
    const { atRest, frame } = useBench.getState();
    if (!small && atRest) void this.follow(frame);
    const { version } = this;
    const planes = await engine().scopes.planes(moment, small ?? undefined);
    if (!small && atRest && version === this.version) this.made = { key, planes };
    return planes;
  }

  /** The cells of a frame that comes next; undefined where they can't be had or aren't wanted any more. */
  async cells(frame: number): Promise<CellsOfFile | undefined> {
    this.running?.abort();
    this.frame = frame;
    const { signal } = (this.running = new AbortController());
    const code = await api
      .cells(this.clipId, frame, askedNoise(useBench.getState(), 'graded'), signal)
      .catch(() => undefined);
    const { width, height } = this.facts;
    return code && !signal.aborted ? { code, width, height } : undefined;
  }

  /** Has a frame measured from now on, with its cells where it has them. Takes the buffers over. */
  async measure(buffer: ArrayBuffer, format: PlanarFormat, cells: CellsOfFile | undefined): Promise<FileEnds> {
    if (!cells) this.stop();
    this.canvas.dataset.cells = 'here';
    const moved = [buffer, ...(cells ? [cells.code.buffer as ArrayBuffer] : [])];
    const ends = await engine().scopes.setFrame(transfer(buffer, moved), format, cells);
    this.forget();
    return ends;
  }

  /** The frame at rest got its first plane while it stood: it is made from what is there, and anew from the file's cells. */
  private async follow(frame: number): Promise<void> {
    if (this.frame === frame) return;
    this.canvas.dataset.cells = 'coming';
    const cells = await this.cells(frame);
    // Another frame has cells of its own.
    if (this.frame !== frame) return;
    if (cells) {
      await engine().scopes.setCells(transfer(cells, [cells.code.buffer as ArrayBuffer]));
      this.forget();
      this.followed();
    }
    this.canvas.dataset.cells = 'here';
  }
}
