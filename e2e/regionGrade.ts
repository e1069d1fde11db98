import { newStep, type Step } from '@inkavo/core/model/grade';
import { shapeSchema, type Shape } from '@inkavo/core/regions/shape';

const moving = (kind: Shape['kind'], from: object, to: object, part: object = {}): Shape =>
  shapeSchema.parse({
    id: kind,
    kind,
    ...part,
    keys: [
      { seconds: 0, ...from },
      { seconds: 3, ...from, ...to },
    ],
  });
/** Three moving regions, a matte, water and corners. */
export const THREE_MOVING: Step[] = [
  newStep('region', 'one', {
    shapes: [moving('ellipse', { x: 0.3, y: 0.2, width: 0.4, height: 0.25, feather: 0.12 }, { x: 0.6, turn: 40 })],
  }),
  newStep('region', 'two', {
    shapes: [
      moving('gradient', { x: 0.5, y: 0.2, turn: 80, feather: 0.3 }, { y: 0.4 }),
      moving('rectangle', { x: 0.5, y: 0.3, width: 0.2, height: 0.2 }, { x: 0.3, width: 0.3 }, { mode: 'subtract' }),
    ],
    matte: { lightness: { low: 0.3, high: 1, soft: 0.2 } },
  }),
  newStep('region', 'three', {
    shapes: [
      moving(
        'path',
        {
          x: 0.6,
          y: 0.4,
          width: 0.3,
          height: 0.2,
          points: [
            [-0.5, -0.5],
            [0.5, -0.3],
            [0.3, 0.5],
            [-0.4, 0.2],
          ].map(([x, y]) => ({ x, y })),
        },
        { x: 0.4 },
      ),
    ],
    inverted: true,
  }),
  newStep('corners', 'corners', { amount: 0.3 }),
  newStep('water', 'water', { depth: 7, veilRed: 0.1, veilGreen: 0.4, veilBlue: 0.45, distance: 1.5 }),
  { ...newStep('range', 'range', { exposure: 0.4, contrast: 1.1 }), region: 'one' },
  { ...newStep('saturation', 'saturation', { amount: 1.4 }), region: 'two' },
  { ...newStep('balance', 'balance', { kelvin: 5200 }), region: 'three' },
];
