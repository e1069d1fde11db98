import { logCamera, type LogCamera } from '../colour/transfer';
import fixture from '../fixtures/opencolorio.json';
import { applyCdl, type Cdl } from './cdl';
import { readCube } from './cube';
import { lookUp } from '../program/table';
import { lutFunction, tableOfLut } from './tables';

type Three = [number, number, number];

// Values computed by OpenColorIO for the same parameters; scripts/fixtures.py makes the file.
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

// A cube; one with a scalar range; one behind curves.
test.each(fixture.cube.map((f, i) => [i, f] as const))(
  '.cube table %i, read and looked up with tetrahedra, equals OpenColorIO',
  (_i, { text, points }) => {
    const lut = readCube(text);
    const [apply, table] = [lutFunction(lut), tableOfLut(lut)];
    for (const [rgb, expected] of points) {
      const out = [...rgb] as Three;
      apply(out);
      out.forEach((v, c) => expect(Math.abs(v - expected[c])).toBeLessThan(1e-4));
      const [r, g, b] = rgb;
      lookUp(table, r, g, b, out);
      out.forEach((v, c) => expect(Math.abs(v - expected[c])).toBeLessThan(1e-4));
    }
  },
);
