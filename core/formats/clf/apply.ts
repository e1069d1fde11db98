import { logCamera, type LogCamera } from '../../colour/transfer';
import type { PointFn } from '../../steps/types';
import { cubeFunction, curveFunction } from '../tables';
import type { Cdl } from '../cdl';
import type { ProcessList, ProcessNode, Three } from './types';

type Curve = (x: number) => number;

/** Smallest argument of a logarithm: the smallest normal 32-bit float. */
const TINY = 1.17549435e-38;

const each =
  (curves: Three<Curve>): PointFn =>
  (rgb) => {
    for (let c = 0; c < 3; c += 1) rgb[c] = curves[c](rgb[c]);
  };

function logCurve(style: Extract<ProcessNode, { kind: 'log' }>['style'], p: LogCamera): Curve {
  if (style === 'cameraLinToLog') return logCamera(p).encode;
  if (style === 'cameraLogToLin') return logCamera(p).decode;
  const k = Math.log(p.base);
  const toLog = !/^anti|^logToLin/.test(style);
  return toLog
    ? (x) => (p.logSideSlope * Math.log(Math.max(TINY, p.linSideSlope * x + p.linSideOffset))) / k + p.logSideOffset
    : (x) => (Math.exp(((x - p.logSideOffset) / p.logSideSlope) * k) - p.linSideOffset) / p.linSideSlope;
}

/** The power curve with a linear segment (as in sRGB): exponent above 1, offset 0–0.9. */
function monCurve(exponent: number, offset: number, forward: boolean): Curve {
  if (offset === 0 || exponent === 1) return (x) => (x <= 0 ? 0 : x ** (forward ? exponent : 1 / exponent));
  const xBreak = offset / (exponent - 1);
  const slope = ((exponent - 1) / offset) * ((exponent * offset) / ((exponent - 1) * (1 + offset))) ** exponent;
  const yBreak = xBreak * slope;
  return forward
    ? (x) => (x >= xBreak ? ((x + offset) / (1 + offset)) ** exponent : x * slope)
    : (y) => (y >= yBreak ? (1 + offset) * y ** (1 / exponent) - offset : y / slope);
}

const mirrored =
  (f: Curve): Curve =>
  (x) =>
    x < 0 ? -f(-x) : f(x);

function exponentCurve(
  style: Extract<ProcessNode, { kind: 'exponent' }>['style'],
  { exponent, offset }: { exponent: number; offset: number },
): Curve {
  const forward = style.endsWith('Fwd');
  if (style.startsWith('monCurve')) {
    const curve = monCurve(exponent, offset, forward);
    return style.includes('Mirror') ? mirrored(curve) : curve;
  }
  const k = forward ? exponent : 1 / exponent;
  if (style.includes('Mirror')) return mirrored((x) => x ** k);
  if (style.includes('PassThru')) return (x) => (x <= 0 ? x : x ** k);
  return (x) => Math.max(0, x) ** k;
}

function rangeCurve({ low, high, clamp }: Extract<ProcessNode, { kind: 'range' }>): Curve {
  const scale = low && high ? (high.out - low.out) / (high.in - low.in) : 1;
  const offset = low ? low.out - low.in * scale : high!.out - high!.in * scale;
  if (!clamp) return (x) => x * scale + offset;
  return (x) => Math.min(high ? high.out : Infinity, Math.max(low ? low.out : -Infinity, x * scale + offset));
}

function cdlFunction(style: string, { slope, offset, power, saturation }: Omit<Cdl, 'id'>): PointFn {
  const clamp: Curve = style.endsWith('NoClamp') ? (v) => v : (v) => Math.min(1, Math.max(0, v));
  // Without clamping, negative values pass the power unchanged.
  const raise = (v: number, p: number): number => (v < 0 ? v : v ** p);
  const saturate = (rgb: Three, k: number): void => {
    const luma = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
    for (let c = 0; c < 3; c += 1) rgb[c] = luma + k * (rgb[c] - luma);
  };
  if (style.startsWith('Fwd'))
    return (rgb) => {
      for (let c = 0; c < 3; c += 1) rgb[c] = raise(clamp(rgb[c] * slope[c] + offset[c]), power[c]);
      saturate(rgb, saturation);
      for (let c = 0; c < 3; c += 1) rgb[c] = clamp(rgb[c]);
    };
  return (rgb) => {
    for (let c = 0; c < 3; c += 1) rgb[c] = clamp(rgb[c]);
    saturate(rgb, 1 / saturation);
    for (let c = 0; c < 3; c += 1) rgb[c] = clamp((raise(clamp(rgb[c]), 1 / power[c]) - offset[c]) / slope[c]);
  };
}

function nodeFunction(node: ProcessNode): PointFn {
  switch (node.kind) {
    case 'matrix': {
      const [a, b, c] = node.rows;
      return (rgb) => {
        const [x, y, z] = rgb;
        rgb[0] = a[0] * x + a[1] * y + a[2] * z + a[3];
        rgb[1] = b[0] * x + b[1] * y + b[2] * z + b[3];
        rgb[2] = c[0] * x + c[1] * y + c[2] * z + c[3];
      };
    }
    case 'lut1d':
      return curveFunction(node.data, node.size);
    case 'lut3d':
      return cubeFunction(node.data, node.size, node.interpolation);
    case 'range': {
      const curve = rangeCurve(node);
      return each([curve, curve, curve]);
    }
    case 'log':
      return each(node.params.map((p) => logCurve(node.style, p)) as Three<Curve>);
    case 'exponent':
      return each(node.params.map((p) => exponentCurve(node.style, p)) as Three<Curve>);
    case 'cdl':
      return cdlFunction(node.style, node.cdl);
  }
}

/** The whole list as one function of a colour. Throws a RangeError for invalid log parameters. */
export function clfFunction({ nodes }: ProcessList): PointFn {
  const functions = nodes.map(nodeFunction);
  return (rgb) => {
    for (const f of functions) f(rgb);
  };
}
