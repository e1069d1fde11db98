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
 * The planes of the shown frame. For stills, those of haze and water are made from averages of the file's own pixels,
 * as in an export, at any display size; these cells are only fetched if a grade needs such planes, with the picture on
 * the screen as a fallback.
 */
export class FramePlanes {
  private running: AbortController | undefined;
  /** The still frame whose cells the measuring worker has or is receiving. */
  private frame: number | undefined;
  /** Version of the frame and cells from which planes are made. */
  private version = 0;
  /** The latest planes of the still frame, with the frame and cells they were made from. */
  private made: { key: string; planes: Planes } | undefined;

  /** `followed`: called when cells arrive for planes that are already shown. */
  constructor(
    private readonly clipId: string,
    private readonly facts: MediaFacts,
    private readonly picture: ScreenPicture,
    private readonly canvas: HTMLCanvasElement,
    private readonly followed: () => void,
  ) {}

  /** Results so far belong to other pixels. */
  private forget(): void {
    this.version += 1;
    this.made = undefined;
  }

  /** Another frame is requested, or none. */
  stop(): void {
    this.running?.abort();
    this.frame = undefined;
    this.forget();
  }

  /** The planes of a grade: of the still frame, which is the measured one, or of the video frame. */
  async at(moment: Moment, moving: boolean): Promise<Planes> {
    const from = planesFrom(moment.steps, moment.seconds, moment.show);
    if (from === 'nothing') return [];
    const { steps, seconds, show } = moment;
    const key = planesKey(steps, seconds, show);
    // Changes of later steps do not affect planes: no worker has to be asked.
    if (!moving && this.made?.key === key) return this.made.planes;
    // Shapes need no frame: the baking worker can make them while the other one measures.
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

  /** The cells of the next frame; undefined if unavailable or no longer needed. */
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

  /** Sets the frame to be measured, with its cells if available. Takes ownership of the buffers. */
  async measure(buffer: ArrayBuffer, format: PlanarFormat, cells: CellsOfFile | undefined): Promise<FileEnds> {
    if (!cells) this.stop();
    this.canvas.dataset.cells = 'here';
    const moved = [buffer, ...(cells ? [cells.code.buffer as ArrayBuffer] : [])];
    const ends = await engine().scopes.setFrame(transfer(buffer, moved), format, cells);
    this.forget();
    return ends;
  }

  /**
   * The still frame got its first plane while shown: it is made from the available pixels, and again from the file's
   * cells.
   */
  private async follow(frame: number): Promise<void> {
    if (this.frame === frame) return;
    this.canvas.dataset.cells = 'coming';
    const cells = await this.cells(frame);
    // Another frame has its own cells.
    if (this.frame !== frame) return;
    if (cells) {
      await engine().scopes.setCells(transfer(cells, [cells.code.buffer as ArrayBuffer]));
      this.forget();
      this.followed();
    }
    this.canvas.dataset.cells = 'here';
  }
}
