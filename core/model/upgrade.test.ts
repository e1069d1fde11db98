import { newStep, stepSchema, storedSteps } from './grade';
import { upgradeStep, type Upgrade } from './upgrade';

/** A kind whose parameter was first a percentage, and later renamed. */
const UPGRADES: Upgrade[] = [
  (p) => ({ ...p, amount: Number(p.amount) / 100 }),
  ({ amount, ...rest }) => ({ ...rest, size: amount }),
];
const upgrade = (step: unknown): unknown => upgradeStep(step, () => UPGRADES);

test('a step of any version comes to the present one, once', () => {
  const present = { id: 'a', kind: 'k', on: true, version: 3, params: { size: 0.4 } };
  expect(upgrade({ id: 'a', kind: 'k', on: true, params: { amount: 40 } })).toEqual(present);
  expect(upgrade({ id: 'a', kind: 'k', on: true, version: 2, params: { amount: 0.4 } })).toEqual(present);
  expect(upgrade(present)).toEqual(present);
});

test('what is no step, or of a newer version, is left for the schema to refuse', () => {
  for (const odd of [null, 3, 'x', [], { kind: 'k', version: 4, params: {} }, { kind: 'k', version: 'x' }])
    expect(upgrade(odd)).toEqual(odd);
  const newer = { ...newStep('range', 'r'), version: 9 };
  expect(stepSchema.safeParse(newer).error!.issues[0].message).toContain('newer version');
});

test('today’s kinds are of the first version, which is not written', () => {
  const step = newStep('range', 'r', { black: -0.04 });
  expect(step).not.toHaveProperty('version');
  expect(storedSteps(JSON.stringify([step]))).toEqual([step]);
  expect(stepSchema.parse({ ...step, version: 1 })).toEqual(step);
});
