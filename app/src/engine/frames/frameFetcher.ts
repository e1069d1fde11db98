import type { MediaFacts } from '@inkavo/core/model/facts';
import type { PlanarFormat } from '@inkavo/core/program/cpu/planar';
import { transfer } from 'comlink';
import { api } from '../../api/client';
import { useBench } from '../../state/bench';
import { askedNoise } from './askedNoise';
import { noteFrame } from './frameSpeed';
import type { Slot } from '../picture/look';
import { engine } from '../workers';

/** A still frame, or a part of it: planes of 4:4:4 with 16 bits. */
export interface Fetched {
  buffer: ArrayBuffer;
  format: PlanarFormat;
  /** False once another frame is requested, or none. */
  wanted(): boolean;
}

/** Decompresses a frame off the main thread, in the worker that bakes tables, so that scopes are not delayed. */
const unpacked = (sent: ArrayBuffer, width: number): Promise<ArrayBuffer> =>
  engine().tables.unpack(transfer(sent, [sent]), width);

/** Fetches frames of the original; a new request replaces the current one. */
export class FrameFetcher {
  private running: AbortController | undefined;

  constructor(
    private readonly clipId: string,
    private readonly facts: MediaFacts,
    private readonly slot: Slot = 'graded',
  ) {}

  /** A frame, at most `width` wide; null when it is no longer needed. Rejects with an `ApiError`. */
  async fetch(frame: number, width: number, part?: Parameters<typeof api.frame>[5]): Promise<Fetched | null> {
    this.stop();
    const { signal } = (this.running = new AbortController());
    try {
      const {
        buffer: sent,
        packed,
        ms,
        ...size
      } = await api.frame(this.clipId, frame, width, askedNoise(useBench.getState(), this.slot), signal, part);
      if (signal.aborted) return null;
      noteFrame(size.width * size.height, ms);
      const buffer = packed ? await unpacked(sent, size.width) : sent;
      const { range, matrix, chromaSite } = this.facts;
      const format: PlanarFormat = { ...size, depth: 16, chroma: '444', range, matrix, chromaSite };
      return { buffer, format, wanted: () => !signal.aborted };
    } catch (error) {
      if (signal.aborted) return null;
      throw error;
    }
  }

  stop(): void {
    this.running?.abort();
  }
}
