import { readPerceptron, run, runMany, storePerceptron } from './perceptron';

const small = {
  sizes: [2, 2, 1],
  means: Float32Array.from([1, 0]),
  deviations: Float32Array.from([2, 1]),
  layers: [
    { weights: Float32Array.from([0.5, -1, 2, 0.25]), biases: Float32Array.from([0.1, -0.2]) },
    { weights: Float32Array.from([1.5, -0.5]), biases: Float32Array.from([0.3]) },
  ],
};

test('a perceptron computes what its formula says, by hand', () => {
  // Inputs 3 and 0.5: normalised 1 and 0.5.
  const hidden = [Math.tanh(0.1 + 0.5 - 0.5), Math.tanh(-0.2 + 2 + 0.125)];
  expect(run(small, [3, 0.5])[0]).toBeCloseTo(0.3 + 1.5 * hidden[0] - 0.5 * hidden[1], 6);
});

test('stored and read again it gives the same to 16 bits; weights of another shape are refused', () => {
  const stored = storePerceptron(small);
  expect(run(readPerceptron(stored), [0.2, -0.7])[0]).toBeCloseTo(run(small, [0.2, -0.7])[0], 3);
  expect(() => readPerceptron({ ...stored, sizes: [3, 2, 1] })).toThrow(
    'The weights do not belong to layers of 3, 2, 1.',
  );
});

test('an input far outside what was learned is clamped', () => {
  expect(run(small, [1e6, 0])[0]).toBe(run(small, [1e3, 0])[0]);
});

test('many sets of inputs at once give what they give one by one', () => {
  const inputs = Float32Array.from([3, 0.5, -2, 0, 40, -9]);
  const one = [0, 2, 4].map((i) => run(small, inputs.subarray(i, i + 2))[0]);
  expect(Array.from(runMany(small, inputs))).toEqual(one);
});
