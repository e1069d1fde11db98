import type { Vec3 } from './matrix';

const DEG = Math.PI / 180;
const POW25_7 = 25 ** 7;

const hueAngle = (b: number, a: number): number => {
  if (a === 0 && b === 0) return 0;
  const h = Math.atan2(b, a) / DEG;
  return h < 0 ? h + 360 : h;
};

/**
 * CIEDE2000 colour difference of two L*a*b* colours, kL = kC = kH = 1.
 * Source: CIE 142; formulation and test pairs of Sharma, Wu, Dalal (2005).
 */
export function ciede2000(lab1: Readonly<Vec3>, lab2: Readonly<Vec3>): number {
  const [l1, a1, b1] = lab1;
  const [l2, a2, b2] = lab2;
  const meanC = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const c7 = meanC ** 7;
  const g = 0.5 * (1 - Math.sqrt(c7 / (c7 + POW25_7)));
  const [ap1, ap2] = [a1 * (1 + g), a2 * (1 + g)];
  const [cp1, cp2] = [Math.hypot(ap1, b1), Math.hypot(ap2, b2)];
  const [h1, h2] = [hueAngle(b1, ap1), hueAngle(b2, ap2)];

  let dh = h2 - h1;
  let meanH = h1 + h2;
  if (cp1 * cp2 === 0) dh = 0;
  else {
    if (Math.abs(h1 - h2) > 180) meanH += h1 + h2 < 360 ? 360 : -360;
    meanH /= 2;
    if (dh > 180) dh -= 360;
    else if (dh < -180) dh += 360;
  }
  const dL = l2 - l1;
  const dC = cp2 - cp1;
  const dH = 2 * Math.sqrt(cp1 * cp2) * Math.sin((dh / 2) * DEG);
  const meanL = (l1 + l2) / 2;
  const meanCp = (cp1 + cp2) / 2;
  const t =
    1 -
    0.17 * Math.cos((meanH - 30) * DEG) +
    0.24 * Math.cos(2 * meanH * DEG) +
    0.32 * Math.cos((3 * meanH + 6) * DEG) -
    0.2 * Math.cos((4 * meanH - 63) * DEG);
  const l50 = (meanL - 50) ** 2;
  const sl = 1 + (0.015 * l50) / Math.sqrt(20 + l50);
  const sc = 1 + 0.045 * meanCp;
  const sh = 1 + 0.015 * meanCp * t;
  const cp7 = meanCp ** 7;
  const rt = -2 * Math.sqrt(cp7 / (cp7 + POW25_7)) * Math.sin(60 * Math.exp(-(((meanH - 275) / 25) ** 2)) * DEG);
  return Math.sqrt((dL / sl) ** 2 + (dC / sc) ** 2 + (dH / sh) ** 2 + rt * (dC / sc) * (dH / sh));
}
