import { encode } from 'uqr';

/** Quiet zone of a QR code in modules (ISO/IEC 18004 requires four). */
const QUIET = 4;

/** A QR code as an SVG path of its dark modules; `size`: modules across, including the quiet zone. */
export function qrPath(text: string): { size: number; path: string } {
  const { size, data } = encode(text, { ecc: 'M', border: QUIET });
  const runs = data.flatMap((row, y) => {
    const found: string[] = [];
    for (let x = 0; x < size; x += 1) {
      if (!row[x]) continue;
      const from = x;
      while (row[x + 1]) x += 1;
      found.push(`M${from} ${y}h${x + 1 - from}v1H${from}z`);
    }
    return found;
  });
  return { size, path: runs.join('') };
}
