import fc from 'fast-check';
import { newStep, gradeOf } from '../model/grade';
import { compile } from '../program/compile';
import { evaluate } from '../program/evaluate';
import { applyCdl, readCdl, writeCc } from './cdl';
import { readClf } from './clf/read';
import { writeClf } from './clf/write';
import { readCube, writeCube, type Lut } from './cube';
import { FormatError } from './error';
import { gradeToCdl } from './gradeCdl';
import { gradeToClf, gradeToLut } from './gradeLut';
import { readGrade, readRecipe, writeGrade, writeRecipe } from './json';

const cube = (size: number): Lut => ({
  title: 'Test',
  dimensions: 3,
  size,
  domainMin: [0, 0, 0],
  domainMax: [1, 1, 1],
  data: Float32Array.from({ length: size ** 3 * 3 }, (_, i) => ((i * 37) % 1000) / 1000),
});

describe('.cube', () => {
  test.each([
    ['a cube', cube(5)],
    [
      'a curve with a domain of its own',
      {
        ...cube(2),
        dimensions: 1,
        size: 8,
        data: Float32Array.from({ length: 24 }, (_, i) => i / 16 - 0.25),
        domainMin: [-0.1, 0, 0],
        domainMax: [1.5, 1, 2],
      } as Lut,
    ],
  ])('%s comes back as it was', (_name, lut) => {
    const back = readCube(writeCube(lut));
    expect({ ...back, data: [] }).toEqual({ ...lut, data: [] });
    back.data.forEach((v, i) => expect(v).toBeCloseTo(lut.data[i], 6));
  });

  test('comments, blank lines, line ends of every kind, a byte-order mark', () => {
    const text = `\uFEFF# made by hand\r\n\r\nTITLE "x"\rLUT_1D_SIZE 2\n0 0 0\n  1.0\t1e0 .1e1  \n`;
    expect([...readCube(text).data]).toEqual([0, 0, 0, 1, 1, 1]);
  });

  test('a title without quotation marks, a range of two numbers', () => {
    const lut = readCube('TITLE Dusk over water\nLUT_1D_SIZE 2\nLUT_1D_INPUT_RANGE -0.5 2\n0 0 0\n1 1 1\n');
    expect(lut).toMatchObject({ title: 'Dusk over water', domainMin: [-0.5, -0.5, -0.5], domainMax: [2, 2, 2] });
  });

  test.each([
    ['no size', '0 0 0', 'Line 1: numbers come before'],
    ['nothing at all', '', 'no LUT_1D_SIZE'],
    ['a size out of limits', 'LUT_3D_SIZE 999', 'Line 1: a size of 2 to 256'],
    ['a size twice', 'LUT_3D_SIZE 2\nLUT_3D_SIZE 2', 'Line 2: the size is given twice'],
    [
      'curves before a cube, cut off',
      'LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n0 0 0\n1 1 1\n0 0 0',
      'ends after 3 entries; 10 are needed',
    ],
    ['a domain of one of two', 'LUT_1D_SIZE 2\nLUT_3D_SIZE 2\nDOMAIN_MAX 2 2 2\n0 0 0', 'of the curves or of the cube'],
    ['a range of one number', 'LUT_3D_SIZE 2\nLUT_3D_INPUT_RANGE 1', 'Line 2: two numbers are needed'],
    [
      'code values of video range',
      'LUT_3D_SIZE 2\nLUT_IN_VIDEO_RANGE',
      'Line 2: this table is made for code values of video range',
    ],
    ['an unknown keyword', 'LUT_3D_SIZE 2\nGLOW 3', 'Line 2: "GLOW" is not a keyword'],
    ['two numbers', 'LUT_1D_SIZE 2\n0 0 0\n1 1', 'Line 3: three numbers are needed'],
    ['text for a number', 'LUT_1D_SIZE 2\n0 x 0', 'Line 2: "x" is not a number'],
    ['too few', 'LUT_1D_SIZE 3\n0 0 0\n1 1 1', 'ends after 2 entries; 3 are needed'],
    ['too many', 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1', 'Line 4: there are more entries'],
    ['a keyword among the numbers', 'LUT_1D_SIZE 2\n0 0 0\nTITLE "a"', 'Line 3: keywords come before'],
    ['an empty domain', 'LUT_1D_SIZE 2\nDOMAIN_MAX 0 1 1\n0 0 0\n1 1 1', 'A domain must end above where it begins'],
    ['a number without end', 'LUT_1D_SIZE 2\n0 0 Infinity\n1 1 1', 'not a number'],
  ])('%s is refused, and the line is named', (_what, text, words) => {
    expect(() => readCube(text)).toThrow(FormatError);
    expect(() => readCube(text)).toThrow(words);
  });
});

describe('a grade as a table', () => {
  const steps = [newStep('range', 'r', { contrast: 1.2 }), newStep('saturation', 's', { amount: 1.3 })];
  test('its nodes are the exact evaluator’s colours, clipped', () => {
    const { data, size } = gradeToLut(steps, 17, 'Grade');
    const program = compile(steps, 0);
    for (const [r, g, b] of [
      [0, 0, 0],
      [16, 3, 9],
      [8, 8, 8],
      [16, 16, 16],
    ]) {
      const exact = evaluate(program, [r / 16, g / 16, b / 16], true);
      const o = ((b * size + g) * size + r) * 3;
      exact.forEach((v, c) => expect(data[o + c]).toBeCloseTo(v, 6));
    }
  });
  test('a grade without steps is the identity; one that changes over time is refused', () => {
    expect(gradeToLut([], 17, '').data[3]).toBeCloseTo(1 / 16, 6);
    const keyed = newStep('range', 'k', { black: { keys: [{ seconds: 0, value: 0 }] } });
    expect(() => gradeToLut([keyed], 17, '')).toThrow('changes over the clip');
  });
});

describe('CDL', () => {
  const cdl = {
    id: 'shot & 1',
    slope: [1.2, 1, 0.9],
    offset: [0.01, -0.02, 0],
    power: [1, 1.1, 0.95],
    saturation: 1.15,
  } as const;
  test('a .cc file comes back as it was; .ccc holds several; what is left out is neutral', () => {
    const one = writeCc({ ...cdl, slope: [...cdl.slope], offset: [...cdl.offset], power: [...cdl.power] });
    expect(readCdl(one)[0]).toMatchObject({ slope: [1.2, 1, 0.9], power: [1, 1.1, 0.95], saturation: 1.15 });
    const two = `<ColorCorrectionCollection><ColorCorrection id="a"><SatNode><Saturation>0.5</Saturation></SatNode></ColorCorrection>${one.slice(one.indexOf('<ColorCorrection '))}</ColorCorrectionCollection>`;
    expect(readCdl(two).map((c) => [c.id, c.saturation, c.slope[0]])).toEqual([
      ['a', 0.5, 1],
      ['shot & 1', 1.15, 1.2],
    ]);
  });

  test('ASC CDL v1.2: the formula, by hand', () => {
    const out = applyCdl({ slope: [2, 1, 1], offset: [0.1, 0, 0], power: [2, 1, 1], saturation: 1 }, [0.2, 0.5, 0.6]);
    expect(out[0]).toBeCloseTo(0.25, 12);
    expect(applyCdl({ slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 0 }, [1, 0, 0])).toEqual([
      0.2126, 0.2126, 0.2126,
    ]);
  });

  test.each([
    ['no correction', '<x/>', 'no ColorCorrection'],
    ['one cut off', '<ColorCorrection id="a"><SOPNode>', 'unclosed tag'],
    [
      'two numbers for a slope',
      '<ColorCorrection id="a"><Slope>1 1</Slope></ColorCorrection>',
      'Slope of "a" must hold 3 numbers',
    ],
    ['a slope below 0', '<ColorCorrection id="a"><Slope>-1 1 1</Slope></ColorCorrection>', 'must not be below 0'],
    ['a power of 0', '<ColorCorrection id="a"><Power>0 1 1</Power></ColorCorrection>', 'must be above 0'],
    ['entities', '<!DOCTYPE a [<!ENTITY x "y">]><ColorCorrection/>', 'document type'],
  ])('%s is refused, and the element is named', (_what, text, words) => {
    expect(() => readCdl(text)).toThrow(FormatError);
    expect(() => readCdl(text)).toThrow(words);
  });

  test('a long file takes a time in proportion, whatever it holds', () => {
    const timed = (count: number): number => {
      const started = process.cpuUsage().user / 1000;
      expect(() => readCdl(`<a>${'<ColorCorrection id="'.repeat(count)}</a>`)).toThrow(FormatError);
      expect(() => readCdl(`<ColorCorrection>${'<Slope>'.repeat(count)}`)).toThrow(FormatError);
      const spaces = `<ColorCorrection><Slope>${' 1'.repeat(count)}</Slope></ColorCorrection>`;
      expect(() => readCdl(spaces)).toThrow('3 numbers');
      return process.cpuUsage().user / 1000 - started;
    };
    timed(100);
    // 160 KB took seven seconds when the time was quadratic.
    expect(timed(8000)).toBeLessThan(1000);
  });

  test('a grade that only scales, shifts and saturates is a CDL; of another it is said what is lost', () => {
    const steps = [
      newStep('range', 'r', { black: -0.05, white: 0.02, contrast: 1.2 }),
      newStep('channels', 'c', { redTop: 0.1, blueBottom: 0.02 }),
      newStep('saturation', 's', { amount: 1.1 }),
    ];
    const { cdl: own, lost } = gradeToCdl(steps, 'x');
    expect(lost).toEqual([]);
    const rgb: [number, number, number] = [0.4, 0.5, 0.45];
    applyCdl(own, rgb).forEach((v, i) => expect(v).toBeCloseTo(evaluate(compile(steps, 0), rgb)[i], 9));
    const more = [...steps, newStep('balance', 'b', { kelvin: 5000 }), newStep('range', 'late', { black: 0.1 })];
    expect(gradeToCdl(more, 'x').lost).toEqual(['Balance', 'Range']);
  });
});

/** Ten thousand damaged files: each is read, or refused with a message; no other outcome. */
function fuzz(text: string, read: (text: string) => unknown): void {
  const bits = [
    '',
    '\n',
    '-',
    '.',
    'e9',
    'NaN',
    '1e999',
    '<',
    '>',
    '"',
    '\0',
    '{',
    '}',
    ' ',
    '99999999999',
    'LUT_3D_SIZE 3',
    '[',
    ',',
    '&',
    '#',
  ];
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(text.length), fc.nat(12), fc.constantFrom(...bits)), { minLength: 1, maxLength: 4 }),
      (edits) => {
        let damaged = text;
        for (const [at, cut, put] of edits) damaged = damaged.slice(0, at) + put + damaged.slice(at + cut);
        try {
          read(damaged);
        } catch (error) {
          if (!(error instanceof FormatError) || error.message.length < 10) throw error;
        }
      },
    ),
    { numRuns: 10_000 },
  );
}
test.each(['constructor', '__proto__', 'toString', 'hasOwnProperty'])(
  'a CLF element named %s is refused as unknown',
  (name) => {
    const text = `<ProcessList id="a"><${name} inBitDepth="16f" outBitDepth="16f"/></ProcessList>`;
    expect(() => readClf(text)).toThrow(FormatError);
    expect(() => readClf(text.replace(`<${name} `, `<Matrix ${name}="1" `).replace('16f', name))).toThrow(FormatError);
  },
);

test('a .cube file of blank lines is refused early, and numbers beyond measure are', () => {
  const started = process.cpuUsage().user / 1000;
  expect(() => readCube('\n'.repeat(50_000_000))).toThrow('blank lines');
  expect(process.cpuUsage().user / 1000 - started).toBeLessThan(2000);
  expect(() => readCube('LUT_3D_SIZE 2\n1e999 0 0\n')).toThrow('"1e999" is not a number');
});

const grade = gradeOf(
  [
    newStep('range', 'r', { black: -0.04 }),
    newStep('curves', 'c', {
      all: [
        { x: 0, y: 0 },
        { x: 0.5, y: 0.6 },
        { x: 1, y: 1 },
      ],
    }),
  ],
  'Fuzz',
);
test.each([
  ['.cube', writeCube(cube(3)), readCube],
  ['CDL', writeCc({ id: 'a', slope: [1, 1, 1], offset: [0, 0, 0], power: [1, 1, 1], saturation: 1 }), readCdl],
  ['grade JSON', writeGrade(grade), readGrade],
  ['recipe JSON', writeRecipe({ format: 'inkavo-recipe', version: 1, name: 'Fuzz', steps: grade.steps }), readRecipe],
  ['CLF', writeClf(gradeToClf(grade.steps, 3, 'Fuzz')), readClf],
] as [string, string, (text: string) => unknown][])('%s: ten thousand damaged files, no crash', (_name, text, read) =>
  fuzz(text, read),
);
