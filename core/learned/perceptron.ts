/**
 * A multilayer perceptron as stored: the weights of all layers, row-major, as little-endian 16-bit integers in base64,
 * with a scale per layer; inputs are normalised by `means` and `deviations`.
 */
export interface StoredPerceptron {
  /** Numbers of inputs, hidden units and outputs. */
  sizes: number[];
  means: number[];
  deviations: number[];
  layers: { scale: number; weights: string; biases: number[] }[];
}

export interface Perceptron {
  sizes: readonly number[];
  means: Float32Array;
  deviations: Float32Array;
  layers: readonly { weights: Float32Array; biases: Float32Array }[];
}

/** Inputs are clamped to this many deviations from their mean: the network extrapolates poorly. */
export const INPUT_LIMIT = 4;

function numbers(base64: string, scale: number): Float32Array {
  const bytes = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  return Float32Array.from({ length: bytes.length / 2 }, (_, i) => scale * view.getInt16(2 * i, true));
}

/** Prepares a stored perceptron. Throws a RangeError when its parts do not match. */
export function readPerceptron(stored: StoredPerceptron): Perceptron {
  const { sizes } = stored;
  const layers = stored.layers.map(({ scale, weights, biases }) => ({
    weights: numbers(weights, scale),
    biases: Float32Array.from(biases),
  }));
  const fits =
    stored.means.length === sizes[0] &&
    stored.deviations.length === sizes[0] &&
    layers.length === sizes.length - 1 &&
    layers.every((l, k) => l.biases.length === sizes[k + 1] && l.weights.length === sizes[k] * sizes[k + 1]);
  if (!fits) throw new RangeError(`The weights do not belong to layers of ${sizes.join(', ')}.`);
  return { sizes, means: Float32Array.from(stored.means), deviations: Float32Array.from(stored.deviations), layers };
}

/** Quantises weights to 16 bits. */
export function storePerceptron({ sizes, means, deviations, layers }: Perceptron): StoredPerceptron {
  const digits = (v: number): number => Number(v.toPrecision(5));
  return {
    sizes: [...sizes],
    means: Array.from(means, digits),
    deviations: Array.from(deviations, digits),
    layers: layers.map(({ weights, biases }) => {
      const scale = digits(weights.reduce((most, w) => Math.max(most, Math.abs(w)), 1e-6) / 32000);
      const bytes = new DataView(new ArrayBuffer(2 * weights.length));
      weights.forEach((w, i) => bytes.setInt16(2 * i, Math.round(w / scale), true));
      let text = '';
      for (let i = 0; i < bytes.byteLength; i += 1) text += String.fromCharCode(bytes.getUint8(i));
      return { scale, weights: btoa(text), biases: Array.from(biases, digits) };
    }),
  };
}

/**
 * Forward pass with the inputs starting at index `at`; `values` provides space for each layer. Returns the last layer.
 */
function forward(
  { sizes, means, deviations, layers }: Perceptron,
  inputs: ArrayLike<number>,
  at: number,
  values: readonly Float32Array[],
): Float32Array {
  // Runs thousands of times per frame: plain loops without allocation.
  let [x] = values;
  for (let i = 0; i < sizes[0]; i += 1) {
    const v = (inputs[at + i] - means[i]) / deviations[i];
    x[i] = v > INPUT_LIMIT ? INPUT_LIMIT : v < -INPUT_LIMIT ? -INPUT_LIMIT : v;
  }
  for (let k = 0; k < layers.length; k += 1) {
    const { weights, biases } = layers[k];
    const last = k === layers.length - 1;
    const y = values[k + 1];
    for (let j = 0, w = 0; j < y.length; j += 1) {
      let sum = biases[j];
      for (let i = 0; i < x.length; i += 1, w += 1) sum += weights[w] * x[i];
      y[j] = last ? sum : Math.tanh(sum);
    }
    x = y;
  }
  return x;
}

const roomFor = ({ sizes }: Perceptron): Float32Array[] => sizes.map((size) => new Float32Array(size));

/** Outputs of the last layer (linear) for one set of inputs; hidden units use tanh. */
export const run = (perceptron: Perceptron, inputs: ArrayLike<number>): Float32Array =>
  forward(perceptron, inputs, 0, roomFor(perceptron));

/** The first output for each of many sets of inputs stored contiguously; see {@link run}. */
export function runMany(perceptron: Perceptron, inputs: Float32Array): Float32Array {
  const [count] = perceptron.sizes;
  const values = roomFor(perceptron);
  return new Float32Array(inputs.length / count).map((_, n) => forward(perceptron, inputs, n * count, values)[0]);
}
