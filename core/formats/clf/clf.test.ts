import fc from 'fast-check';
import fixture from '../../fixtures/opencolorio.json';
import { newStep } from '../../model/grade';
import { compile } from '../../program/compile';
import { evaluate } from '../../program/evaluate';
import { FormatError } from '../error';
import { gradeToClf } from '../gradeLut';
import { clfFunction } from './apply';
import { readClf } from './read';
import type { ProcessNode, Three } from './types';
import { writeClf } from './write';

const list = (body: string): string =>
  `<ProcessList id="a" compCLFversion="3" xmlns="urn:AMPAS:CLF:v3.0">\n${body}\n</ProcessList>`;
const FLOAT = 'inBitDepth="32f" outBitDepth="32f"';

describe('the same colours as OpenColorIO, within 1e-4', () => {
  test.each(fixture.clf.map((c) => [c.name, c] as const))('%s', (_name, { text, points }) => {
    const apply = clfFunction(readClf(text));
    for (const [from, to] of points) {
      const rgb = [...from] as Three;
      apply(rgb);
      rgb.forEach((v, c) => expect(Math.abs(v - to[c]) / Math.max(1, Math.abs(to[c]))).toBeLessThan(1e-4));
    }
  });
});

const factor = fc.double({ min: -4, max: 4, noNaN: true });
const positive = fc.double({ min: 0.1, max: 4, noNaN: true });
const three = <T>(a: fc.Arbitrary<T>) => fc.tuple(a, a, a) as fc.Arbitrary<Three<T>>;
const node: fc.Arbitrary<ProcessNode> = fc.oneof(
  fc.record({
    kind: fc.constant('matrix' as const),
    rows: three(fc.tuple(factor, factor, factor, factor)) as fc.Arbitrary<never>,
  }),
  fc.record({
    kind: fc.constant('lut1d' as const),
    size: fc.constant(4),
    data: fc.array(factor, { minLength: 12, maxLength: 12 }).map((a) => Float64Array.from(a)),
  }),
  fc.record({
    kind: fc.constant('lut3d' as const),
    size: fc.constant(2),
    data: fc.array(factor, { minLength: 24, maxLength: 24 }).map((a) => Float64Array.from(a)),
    interpolation: fc.constantFrom('trilinear' as const, 'tetrahedral' as const),
  }),
  fc.record({
    kind: fc.constant('range' as const),
    low: fc.record({ in: fc.constant(-0.5), out: factor }),
    high: fc.record({ in: fc.constant(1.5), out: factor }),
    clamp: fc.boolean(),
  }),
  fc.record({
    kind: fc.constant('exponent' as const),
    style: fc.constantFrom('basicFwd' as const, 'basicPassThruRev' as const),
    params: three(fc.record({ exponent: positive, offset: fc.constant(0) })),
  }),
  fc.record({
    kind: fc.constant('cdl' as const),
    style: fc.constantFrom('Fwd' as const, 'RevNoClamp' as const),
    cdl: fc.record({ slope: three(positive), offset: three(factor), power: three(positive), saturation: positive }),
  }),
);

test('whatever is written comes back', () => {
  fc.assert(
    fc.property(fc.array(node, { minLength: 1, maxLength: 5 }), (nodes) => {
      const back = readClf(writeClf({ id: 'a "b" <c>', name: 'x & y', nodes }));
      expect([back.id, back.name]).toEqual(['a "b" <c>', 'x & y']);
      back.nodes.forEach((n, i) => expect(close(n, nodes[i])).toBe(true));
    }),
    { numRuns: 200 },
  );
});

/** Equal in structure, and in numbers to nine digits. */
function close(a: unknown, b: unknown): boolean {
  if (typeof a === 'number' && typeof b === 'number') return Math.abs(a - b) <= 1e-8 * Math.max(1, Math.abs(b));
  if (typeof a !== 'object' || !a || !b) return a === b;
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b as object).length &&
    keys.every((k) => close((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k]))
  );
}

test('a grade written as CLF keeps what lies below 0 and above 1', () => {
  const steps = [newStep('range', 'r', { white: -0.1, black: 0.02 })];
  const apply = clfFunction(readClf(writeClf(gradeToClf(steps, 33, 'Grade'))));
  const program = compile(steps, 0);
  for (const code of [
    [-0.05, 0, 0.2],
    [0.5, 0.5, 0.5],
    [1.08, 1.05, 1],
  ] as Three[]) {
    const exact = evaluate(program, code);
    apply(code);
    code.forEach((v, c) => expect(v).toBeCloseTo(exact[c], 5));
  }
});

test.each([
  ['no XML', 'LUT_3D_SIZE 3', 'Line 1: this is not valid XML'],
  ['nothing', '', 'must contain a root element'],
  ['another file', '<Look/>', 'begins with Look'],
  ['an empty list', list(''), 'no process node'],
  ['an unknown node', list('<Glow/>'), 'Glow (line 2) is not a process node'],
  ['a cut end', list('<Matrix>').slice(0, 90), 'not valid XML'],
  ['no array', list(`<Matrix ${FLOAT}/>`), 'Matrix (line 2): there is no Array'],
  [
    'a wrong count',
    list(`<Matrix ${FLOAT}><Array dim="3 3">1 0 0</Array></Matrix>`),
    '9 numbers are needed, there are 3',
  ],
  ['a word', list(`<LUT1D ${FLOAT}><Array dim="2 1">0 x</Array></LUT1D>`), '"x" is not a number'],
  ['a depth', list('<LUT1D outBitDepth="9i"><Array dim="2 1">0 1</Array></LUT1D>'), 'outBitDepth must be one of'],
  ['a huge cube', list(`<LUT3D ${FLOAT}><Array dim="999 999 999 3"/></LUT3D>`), '2 to 129'],
  ['a style', list(`<Log ${FLOAT} style="soft"/>`), 'style "soft" is not one of'],
  ['half an end', list(`<Range ${FLOAT}><minInValue>0</minInValue></Range>`), 'go together'],
  ['a base of 1', list(`<Log ${FLOAT} style="linToLog"><LogParams base="1"/></Log>`), 'base must be above 0 and not 1'],
  ['half floats', list(`<LUT1D halfDomain="true" ${FLOAT}/>`), 'half floats are not read'],
  ['entities', `<!DOCTYPE a [<!ENTITY b "c">]>${list('')}`, 'document type is not taken'],
])('%s is refused, and the place is named', (_what, text, words) => {
  expect(() => readClf(text)).toThrow(FormatError);
  expect(() => readClf(text)).toThrow(words);
});
