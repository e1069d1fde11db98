type Colour = readonly [number, number, number];

const clamp01 = (v: number): number => Math.min(1, Math.max(0, v));

/** R'G'B' as three numbers of 0–255. */
export const colourText = (rgb: Colour): string => rgb.map((v) => Math.round(clamp01(v) * 255)).join(' ');

/** R'G'B' in percent. */
export const percentText = (rgb: Colour): string => `${rgb.map((v) => (clamp01(v) * 100).toFixed(0)).join(' ')} %`;

const NAMES = ['red', 'green', 'blue'] as const;

/** Neutrality of a colour in words: which channel exceeds which, in percent. */
export function neutralText(rgb: Colour): string {
  const order = [0, 1, 2].sort((a, b) => rgb[b] - rgb[a]);
  const percent = (rgb[order[0]] - rgb[order[2]]) * 100;
  if (percent < 1) return 'neutral within 1 %';
  return `${NAMES[order[0]]} ${percent.toFixed(0)} % above ${NAMES[order[2]]}`;
}
