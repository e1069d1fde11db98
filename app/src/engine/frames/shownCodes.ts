import type { Vec3 } from '@inkavo/core/colour/matrix';
import { AS_LABELLED, CHART, CHART_COLUMNS, CHART_ROWS, fitShownCodes } from '@inkavo/core/colour/proxyCodes';
import { CHART_URL } from '../../api/client';
import { canvasOf } from '../picture/movingFrame';

/** Longest that a browser is given to show the chart. */
const PATIENCE_MS = 20_000;
/** Pixels about a patch's middle that are averaged, along an edge. */
const MIDDLE = 16;

/** So long a frame that moves may wait for the first measurement: it is better late than of other colours. */
const FIRST_MS = 1500;

let known = AS_LABELLED;
let measuring: Promise<void> | undefined;
let first: Promise<unknown> | undefined;
/** The video of the chart, while it is measured. */
let chart: HTMLVideoElement | undefined;

/** What this browser makes of proxies, as far as is known. */
export const shownCodes = (): typeof known => known;

/** Resolves when it is known, or was waited for long enough. */
export const codesMeasured = (): Promise<unknown> =>
  (first ??= Promise.race([measuring?.catch(() => undefined), new Promise((done) => setTimeout(done, FIRST_MS))]));

/** A frame of a video, with its colours as the browser has them. */
export const bitmapOf = (video: HTMLVideoElement): Promise<ImageBitmap> =>
  createImageBitmap(video, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });

const once = (video: HTMLVideoElement, event: string): Promise<void> =>
  new Promise((resolve, reject) => {
    video.addEventListener(event, () => resolve(), { once: true });
    video.addEventListener('error', () => reject(new Error(video.error?.message)), { once: true });
    setTimeout(() => reject(new Error(`No ${event}.`)), PATIENCE_MS);
  });

/** The colours of the chart's patches (R, G, B; 0–255) as a browser shows them. */
function patchesOf(image: ImageBitmap): Vec3[] {
  const [width, height] = [image.width / CHART_COLUMNS, image.height / CHART_ROWS];
  const context = canvasOf(image.width, image.height).getContext('2d', { willReadFrequently: true }) as
    CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;
  context.drawImage(image, 0, 0);
  return CHART.map((_, i) => {
    const x = Math.round(((i % CHART_COLUMNS) + 0.5) * width - MIDDLE / 2);
    const y = Math.round((Math.floor(i / CHART_COLUMNS) + 0.5) * height - MIDDLE / 2);
    const { data } = context.getImageData(x, y, MIDDLE, MIDDLE);
    const sum: Vec3 = [0, 0, 0];
    for (let at = 0; at < data.length; at += 4) for (let c = 0; c < 3; c += 1) sum[c] += data[at + c];
    return sum.map((v) => v / MIDDLE ** 2) as Vec3;
  });
}

async function measure(): Promise<void> {
  const video = (chart = document.createElement('video'));
  try {
    Object.assign(video, { muted: true, playsInline: true, preload: 'auto', src: CHART_URL });
    await once(video, 'loadeddata');
    const sought = once(video, 'seeked');
    video.currentTime = video.duration / 2;
    await sought;
    const image = await bitmapOf(video);
    known = fitShownCodes(patchesOf(image)) ?? known;
    image.close();
  } finally {
    chart = undefined;
    video.removeAttribute('src');
    video.load();
  }
}

/**
 * Measures, once a page, what this browser makes of proxies: engines differ in how they take a video's range and matrix
 * (see `core/colour/proxyCodes.ts`). `changed` is called when it is another than was assumed. What fails is tried again when it
 * is asked for again. `tapped`: somebody has just tapped Play; some browsers load no video before that.
 */
export function measureShownCodes(changed: () => void, tapped = false): void {
  const before = known;
  measuring ??= measure();
  if (tapped) void chart?.play().catch(() => undefined);
  measuring.then(
    () => known !== before && changed(),
    () => (measuring = undefined),
  );
}
