import { taggedFields } from './fields';

/** Frames per second, as a fraction. */
export interface Rate {
  num: number;
  den: number;
}

/** Parses a fraction from the codec program; undefined if it is zero or above a thousand. */
export function fraction(text: string | undefined): Rate | undefined {
  const [num, den] = (text ?? '').split('/').map(Number);
  return num > 0 && den > 0 && num / den <= 1000 ? { num, den } : undefined;
}

/** The frame rate from the header; a field rate is twice that of the frames, which the time stamps reveal. */
export function rateOf(
  video: { r_frame_rate?: string; avg_frame_rate?: string; field_order?: string },
  measured: number | undefined,
): Rate {
  const told = fraction(video.r_frame_rate) ?? fraction(video.avg_frame_rate) ?? { num: 25, den: 1 };
  const ofFields = taggedFields(video.field_order) && measured && told.num / told.den > 1.5 * measured;
  return ofFields ? nearestRate(measured) : told;
}

/** Frame rate from the typical frame spacing: dropped frames leave gaps, which would distort a mean. */
export function measuredRate(stamps: number[]): number | undefined {
  const gaps = stamps.slice(1).map((t, i) => t - stamps[i]);
  const usual = gaps.sort((a, b) => a - b)[gaps.length >> 1];
  return usual > 0 ? 1 / usual : undefined;
}

/** Spacings that differ by more than a quarter indicate a variable rate; some files round time stamps. */
export function isVariable(stamps: number[]): boolean {
  if (stamps.length < 3) return false;
  const mean = (stamps[stamps.length - 1] - stamps[0]) / (stamps.length - 1);
  return stamps.some((t, i) => i > 0 && Math.abs(t - stamps[i - 1] - mean) > mean * 0.25 + 0.0011);
}

/** The standard frame rate nearest to a measured one. */
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
