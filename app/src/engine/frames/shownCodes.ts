import type { Vec3 } from '@inkavo/core/colour/matrix';
import { AS_LABELLED, CHART, CHART_COLUMNS, CHART_ROWS, fitShownCodes } from '@inkavo/core/colour/proxyCodes';
import { CHART_URL } from '../../api/client';
import { canvasOf } from '../picture/movingFrame';

/** Time-out for showing the chart. */
const PATIENCE_MS = 20_000;
/** Edge in pixels of the area averaged at a patch's centre. */
const MIDDLE = 16;

/** Maximum delay of video frames until the first measurement: late is better than wrong colours. */
const FIRST_MS = 1500;

let known = AS_LABELLED;
let measuring: Promise<void> | undefined;
let first: Promise<unknown> | undefined;
/** The chart's video, while it is measured. */
let chart: HTMLVideoElement | undefined;

/** This browser's decoding of proxies, as far as known. */
export const shownCodes = (): typeof known => known;

/** Resolves when it is known, or after the maximum delay. */
export const codesMeasured = (): Promise<unknown> =>
  (first ??= Promise.race([measuring?.catch(() => undefined), new Promise((done) => setTimeout(done, FIRST_MS))]));

/** A video frame, with the browser's colours. */
export const bitmapOf = (video: HTMLVideoElement): Promise<ImageBitmap> =>
  createImageBitmap(video, { colorSpaceConversion: 'none', premultiplyAlpha: 'none' });

const once = (video: HTMLVideoElement, event: string): Promise<void> =>
  new Promise((resolve, reject) => {
    video.addEventListener(event, () => resolve(), { once: true });
    video.addEventListener('error', () => reject(new Error(video.error?.message)), { once: true });
    setTimeout(() => reject(new Error(`No ${event}.`)), PATIENCE_MS);
  });

/** Colours of the chart's patches (R, G, B; 0–255) as a browser shows them. */
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
 * Measures this browser's decoding of proxies, once per page: engines handle a video's range and matrix differently
 * (see `core/colour/proxyCodes.ts`). `changed` is called if it is not the assumed one. A failure is retried at the next
 * request. `tapped`: the user has just tapped Play; some browsers load no video before that.
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
