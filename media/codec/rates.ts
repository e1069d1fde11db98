import { taggedFields } from './fields';

/** Frames a second, as a fraction. */
export interface Rate {
  num: number;
  den: number;
}

/** A fraction as the codec program writes it; undefined for none, and for more than a thousand. */
export function fraction(text: string | undefined): Rate | undefined {
  const [num, den] = (text ?? '').split('/').map(Number);
  return num > 0 && den > 0 && num / den <= 1000 ? { num, den } : undefined;
}

/** The frame rate by the header; that of fields is twice that of the frames, which are told by their time stamps. */
export function rateOf(
  video: { r_frame_rate?: string; avg_frame_rate?: string; field_order?: string },
  measured: number | undefined,
): Rate {
  const told = fraction(video.r_frame_rate) ?? fraction(video.avg_frame_rate) ?? { num: 25, den: 1 };
  const ofFields = taggedFields(video.field_order) && measured && told.num / told.den > 1.5 * measured;
  return ofFields ? nearestRate(measured) : told;
}

/** Frames a second by the usual distance between two: frames that were dropped leave gaps, which a mean would spread. */
export function measuredRate(stamps: number[]): number | undefined {
  const gaps = stamps.slice(1).map((t, i) => t - stamps[i]);
  const usual = gaps.sort((a, b) => a - b)[gaps.length >> 1];
  return usual > 0 ? 1 / usual : undefined;
}

/** Frames whose spacing differs by more than a quarter are a variable rate; time stamps are rounded in some files. */
export function isVariable(stamps: number[]): boolean {
  if (stamps.length < 3) return false;
  const mean = (stamps[stamps.length - 1] - stamps[0]) / (stamps.length - 1);
  return stamps.some((t, i) => i > 0 && Math.abs(t - stamps[i - 1] - mean) > mean * 0.25 + 0.0011);
}

/** The usual frame rate nearest to a measured one. */
export function nearestRate(measured: number): Rate {
  const usual: [number, number][] = [
    [24000, 1001],
    [24, 1],
    [25, 1],
    [30000, 1001],
    [30, 1],
    [48, 1],
    [50, 1],
    [60000, 1001],
    [60, 1],
    [100, 1],
    [120, 1],
    [240, 1],
  ];
  const [num, den] = usual.reduce((a, b) =>
    Math.abs(b[0] / b[1] - measured) < Math.abs(a[0] / a[1] - measured) ? b : a,
  );
  return { num, den };
}
