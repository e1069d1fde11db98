import { useBench, type BenchState } from '../state/bench';
import { coalesce } from './coalesce';
import type { ScopeSize } from './measuring';
import { engine } from './workers';

/** Maximum width in pixels of a picture for its traces. */
const WIDTH = 480;

/** A picture's pixels as RGBA bytes. */
async function pixelsOf(address: string): Promise<ImageData> {
  const image = new Image();
  image.src = address;
  await image.decode();
  const width = Math.min(WIDTH, image.naturalWidth);
  const height = Math.max(1, Math.round((image.naturalHeight * width) / image.naturalWidth));
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  const context = canvas.getContext('2d', { willReadFrequently: true })!;
  context.drawImage(image, 0, 0, width, height);
  return context.getImageData(0, 0, width, height);
}

/** Whether a reference picture is shown beside the clip. */
const shows = (s: BenchState): boolean => s.kept !== null && s.compareWith === 'kept' && (s.beside || s.split !== null);

/** Computes the traces of the reference picture, and stores them in the bench's state. */
export class KeptTraces {
  private closed = false;
  private pixels: { address: string; image: ImageData } | undefined;
  private readonly stops = [
    useBench.subscribe(
      (s) => [shows(s) && s.kept, s.scopeView, s.padZoom].join(' '),
      () => this.refresh(),
    ),
  ];

  private size: ScopeSize = { columns: 1, rows: 1, pad: 0 };

  /** Traces have the size of the clip's own. */
  resize(size: ScopeSize): void {
    const { columns, rows, pad } = this.size;
    if (size.columns === columns && size.rows === rows && size.pad === pad) return;
    this.size = size;
    this.refresh();
  }

  private refresh(): void {
    const state = useBench.getState();
    if (!shows(state)) {
      if (state.keptTraces) state.set({ keptTraces: null });
      return;
    }
    this.make(state.kept!);
  }

  private readonly make = coalesce(async (address: string) => {
    if (this.pixels?.address !== address) this.pixels = { address, image: await pixelsOf(address) };
    const { image } = this.pixels;
    const { scopeView, padZoom } = useBench.getState();
    const { columns, rows, pad } = this.size;
    const keptTraces = await engine().scopes.tracesOf(image.data, image.width, image.height, {
      main: scopeView === 'pad' ? null : scopeView,
      columns,
      rows,
      pad: pad > 0 ? { size: pad, zoom: padZoom } : null,
    });
    if (!this.closed && shows(useBench.getState())) useBench.getState().set({ keptTraces });
  });

  close(): void {
    this.closed = true;
    for (const stop of this.stops) stop();
  }
}
