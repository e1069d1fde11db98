import fc from 'fast-check';
import { gzipSync } from 'node:zlib';
import { packSamples, unpackSamples } from './packedSamples';

test('samples of up to twelve bits come back as they were, others within half a step of them', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 40 }),
      fc.infiniteStream(fc.nat(65535)),
      (w, h, s) => {
        const samples = Uint16Array.from({ length: w * h }, () => s.next().value as number);
        const back = unpackSamples(packSamples(samples, w), w);
        // Values that would round up beyond sixteen bits get the largest step.
        const far = back.findIndex((v, i) => Math.abs(v - samples[i]) > (samples[i] > 65528 ? 15 : 8));
        expect([back.length, far]).toEqual([w * h, -1]);
        const whole = samples.map((v) => v & 0xfff0);
        expect(
          Buffer.compare(Buffer.from(unpackSamples(packSamples(whole, w), w).buffer), Buffer.from(whole.buffer)),
        ).toBe(0);
      },
    ),
    { numRuns: 200 },
  );
});

test('a picture that changes gently becomes small', () => {
  const [width, height] = [320, 180];
  // A sky with camera noise.
  const samples = Uint16Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return 20000 + 90 * y + 12 * x + 128 * (((i * 7919) % 13) - 6);
  });
  const raw = gzipSync(Buffer.from(samples.buffer), { level: 1 }).length;
  const packed = gzipSync(packSamples(samples, width), { level: 1 }).length;
  expect(packed / (2 * samples.length)).toBeLessThan(0.5);
  expect(packed).toBeLessThan(0.7 * raw);
});
