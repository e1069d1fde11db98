import { logCamera, type LogCamera } from '../colour/transfer';
import fixture from '../fixtures/opencolorio.json';
import { lookUp } from '../program/bake';
import { applyCdl, type Cdl } from './cdl';
import { readCube } from './cube';

type Three = [number, number, number];

// Values that OpenColorIO gives for the same parameters; scripts/fixtures.py makes the file.
test.each(fixture.logCamera.map((f, i) => [i, f] as const))(
  'log-camera form %i equals OpenColorIO',
  (_i, { params, points }) => {
    const { decode } = logCamera(params as LogCamera);
    for (const [signal, linear] of points)
      expect(Math.abs(decode(signal) - linear)).toBeLessThan(1e-4 * Math.max(1, Math.abs(linear)));
  },
);

test.each(fixture.cdl.map((f, i) => [i, f] as const))('ASC CDL %i equals OpenColorIO', (_i, { params, points }) => {
  for (const [rgb, out] of points) {
    applyCdl(params as unknown as Omit<Cdl, 'id'>, rgb as Three).forEach((v, c) =>
      expect(Math.abs(v - out[c])).toBeLessThan(1e-4),
    );
  }
});

test('a .cube table, read and looked up with tetrahedra, equals OpenColorIO', () => {
  const [{ text, points }] = fixture.cube;
  const { size, data } = readCube(text);
  const table = { size, domain: [0, 1] as const, data: new Float32Array(size ** 3 * 4) };
  for (let i = 0; i < size ** 3; i += 1) for (let c = 0; c < 3; c += 1) table.data[4 * i + c] = data[3 * i + c];
  const out: Three = [0, 0, 0];
  for (const [rgb, expected] of points) {
    lookUp(table, rgb[0], rgb[1], rgb[2], out);
    out.forEach((v, c) => expect(Math.abs(v - expected[c])).toBeLessThan(1e-4));
  }
});
