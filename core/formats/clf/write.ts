import type { LogCamera } from '../../colour/transfer';
import { escapeXml } from '../xml';
import type { ProcessList, ProcessNode, Three } from './types';

const short = (v: number): string => Number(v.toPrecision(9)).toString();
const DEPTHS = 'inBitDepth="32f" outBitDepth="32f"';

function array(dim: string, rows: number[][]): string[] {
  return [`    <Array dim="${dim}">`, ...rows.map((r) => r.map(short).join(' ')), '    </Array>'];
}

/** One set of parameters, or three where the channels differ. */
function params<T extends object>(name: string, of: Three<T>, write: (p: T) => Record<string, number>): string[] {
  const text = (p: T): string =>
    Object.entries(write(p))
      .map(([k, v]) => ` ${k}="${short(v)}"`)
      .join('');
  const alike = of.every((p) => text(p) === text(of[0]));
  return alike ? [`    <${name}${text(of[0])}/>`] : of.map((p, i) => `    <${name}${text(p)} channel="${'RGB'[i]}"/>`);
}

function wrap(element: string, attributes: string, lines: string[]): string[] {
  return [`  <${element}${attributes} ${DEPTHS}>`, ...lines, `  </${element}>`];
}

function cubeRows(data: Float64Array, size: number): number[][] {
  const rows: number[][] = [];
  for (let r = 0; r < size; r += 1)
    for (let g = 0; g < size; g += 1)
      for (let b = 0; b < size; b += 1) {
        const at = 3 * ((b * size + g) * size + r);
        rows.push([data[at], data[at + 1], data[at + 2]]);
      }
  return rows;
}

function logParams(style: string, p: LogCamera): Record<string, number> {
  const { base, logSideSlope, logSideOffset, linSideSlope, linSideOffset, linSideBreak, linearSlope } = p;
  return {
    base,
    logSideSlope,
    logSideOffset,
    linSideSlope,
    linSideOffset,
    ...(style.startsWith('camera') ? { linSideBreak } : {}),
    ...(linearSlope === undefined ? {} : { linearSlope }),
  };
}

function nodeLines(node: ProcessNode): string[] {
  switch (node.kind) {
    case 'matrix':
      return wrap('Matrix', '', array('3 4', node.rows));
    case 'lut1d': {
      const rows = Array.from({ length: node.size }, (_, i) => [...node.data.subarray(3 * i, 3 * i + 3)]);
      return wrap('LUT1D', '', array(`${node.size} 3`, rows));
    }
    case 'lut3d': {
      const n = node.size;
      return wrap('LUT3D', ` interpolation="${node.interpolation}"`, array(`${n} ${n} ${n} 3`, cubeRows(node.data, n)));
    }
    case 'range': {
      const end = (name: string, e?: { in: number; out: number }): string[] =>
        e
          ? [
              `    <${name}InValue>${short(e.in)}</${name}InValue>`,
              `    <${name}OutValue>${short(e.out)}</${name}OutValue>`,
            ]
          : [];
      const style = node.clamp ? 'Clamp' : 'noClamp';
      return wrap('Range', ` style="${style}"`, [...end('min', node.low), ...end('max', node.high)]);
    }
    case 'log': {
      const plain = /^(anti)?[lL]og\d+$/.test(node.style);
      const lines = plain ? [] : params('LogParams', node.params, (p) => logParams(node.style, p));
      return wrap('Log', ` style="${node.style}"`, lines);
    }
    case 'exponent': {
      const curve = node.style.startsWith('monCurve');
      const lines = params('ExponentParams', node.params, ({ exponent, offset }): Record<string, number> =>
        curve ? { exponent, offset } : { exponent },
      );
      return wrap('Exponent', ` style="${node.style}"`, lines);
    }
    case 'cdl': {
      const { slope, offset, power, saturation } = node.cdl;
      const three = (name: string, v: number[]): string => `      <${name}>${v.map(short).join(' ')}</${name}>`;
      return wrap('ASC_CDL', ` style="${node.style}"`, [
        '    <SOPNode>',
        three('Slope', slope),
        three('Offset', offset),
        three('Power', power),
        '    </SOPNode>',
        `    <SatNode><Saturation>${short(saturation)}</Saturation></SatNode>`,
      ]);
    }
  }
}

/** A Common LUT Format file (version 3.0), all process nodes in 32-bit floats. */
export function writeClf({ id, name, nodes }: ProcessList): string {
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<ProcessList id="${escapeXml(id)}" name="${escapeXml(name)}" compCLFversion="3" xmlns="urn:AMPAS:CLF:v3.0">`,
    ...nodes.flatMap(nodeLines),
    '</ProcessList>',
    '',
  ].join('\n');
}
