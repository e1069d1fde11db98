import { encode } from 'uqr';

/** Modules of light around a QR code (ISO/IEC 18004 asks for four). */
const QUIET = 4;

/** The QR code of a text as a path of its dark modules, in SVG's path language; `size`: modules across, quiet zone and all. */
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
