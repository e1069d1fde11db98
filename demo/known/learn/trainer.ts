import type { Perceptron } from '@inkavo/core/learned/perceptron';
import { INPUT_LIMIT } from '@inkavo/core/learned/perceptron';
import { random } from '../random';

interface Moments {
  first: Float32Array;
  second: Float32Array;
  gradient: Float32Array;
  values: Float32Array;
  decays: boolean;
}

/** Trains a perceptron by Adam (Kingma, Ba 2015), with dropout and weight decay. */
export class Trainer {
  readonly perceptron: Perceptron;
  private readonly rng;
  private readonly moments: Moments[] = [];
  private steps = 0;
  private activations: Float32Array[] = [];
  private masks: Float32Array[] = [];

  constructor(
    sizes: number[],
    means: Float32Array,
    deviations: Float32Array,
    seed: number,
    private readonly dropout: number,
  ) {
    this.rng = random(seed);
    const layers = sizes.slice(1).map((outputs, k) => {
      const last = k === sizes.length - 2;
      const spread = Math.sqrt((last ? 0.1 : 1.5) / sizes[k]);
      const weights = new Float32Array(outputs * sizes[k]).map(() => this.rng.normal(spread));
      return { weights, biases: new Float32Array(outputs) };
    });
    for (const { weights, biases } of layers)
      for (const values of [weights, biases])
        this.moments.push({
          values,
          first: new Float32Array(values.length),
          second: new Float32Array(values.length),
          gradient: new Float32Array(values.length),
          decays: values === weights,
        });
    this.perceptron = { sizes, means, deviations, layers };
  }

  /** Outputs, with activations stored for {@link backward}; inputs get some noise. */
  forward(inputs: ArrayLike<number>, noise: number): Float32Array {
    const { sizes, means, deviations, layers } = this.perceptron;
    let x = new Float32Array(sizes[0]).map((_, i) => {
      const v = (inputs[i] - means[i]) / deviations[i] + (noise > 0 ? this.rng.between(-noise, noise) : 0);
      return Math.min(INPUT_LIMIT, Math.max(-INPUT_LIMIT, v));
    });
    this.activations = [x];
    this.masks = [];
    layers.forEach(({ weights, biases }, k) => {
      const last = k === layers.length - 1;
      const y = new Float32Array(sizes[k + 1]);
      for (let j = 0, w = 0; j < y.length; j += 1) {
        let sum = biases[j];
        for (let i = 0; i < x.length; i += 1, w += 1) sum += weights[w] * x[i];
        y[j] = last ? sum : Math.tanh(sum);
      }
      if (!last) {
        const mask = new Float32Array(y.length).map(() =>
          this.dropout > 0 && this.rng.chance(this.dropout) ? 0 : 1 / (1 - this.dropout),
        );
        this.masks.push(mask);
        for (let j = 0; j < y.length; j += 1) y[j] *= mask[j];
      }
      this.activations.push(y);
      x = y;
    });
    return x;
  }

  /** Backpropagates the gradient of the loss with respect to the last {@link forward}'s outputs. */
  backward(byOutputs: ArrayLike<number>): void {
    const { sizes, layers } = this.perceptron;
    let d = Float32Array.from(byOutputs);
    for (let k = layers.length - 1; k >= 0; k -= 1) {
      const x = this.activations[k];
      const { weights } = layers[k];
      const [gw, gb] = [this.moments[2 * k].gradient, this.moments[2 * k + 1].gradient];
      const back = new Float32Array(sizes[k]);
      for (let j = 0; j < sizes[k + 1]; j += 1) {
        let g = d[j];
        if (k < layers.length - 1) {
          const mask = this.masks[k][j];
          if (mask === 0) continue;
          const y = this.activations[k + 1][j] / mask;
          g *= mask * (1 - y * y);
        }
        if (g === 0) continue;
        gb[j] += g;
        for (let i = 0, w = j * sizes[k]; i < x.length; i += 1, w += 1) {
          gw[w] += g * x[i];
          back[i] += g * weights[w];
        }
      }
      d = back;
    }
  }

  /** One step with the mean gradient of this many samples. */
  step(rate: number, decay: number, samples: number): void {
    this.steps += 1;
    const [c1, c2] = [1 - 0.9 ** this.steps, 1 - 0.999 ** this.steps];
    for (const { values, first, second, gradient, decays } of this.moments)
      for (let i = 0; i < values.length; i += 1) {
        const g = gradient[i] / samples;
        first[i] = 0.9 * first[i] + 0.1 * g;
        second[i] = 0.999 * second[i] + 0.001 * g * g;
        values[i] -= rate * (first[i] / c1 / (Math.sqrt(second[i] / c2) + 1e-8) + (decays ? decay * values[i] : 0));
        gradient[i] = 0;
      }
  }
}

/** Means and standard deviations of inputs. */
export function spreadOf(inputs: readonly ArrayLike<number>[]): { means: Float32Array; deviations: Float32Array } {
  const count = inputs[0].length;
  const means = new Float32Array(count);
  const deviations = new Float32Array(count);
  for (let k = 0; k < count; k += 1) {
    let [sum, squares] = [0, 0];
    for (const x of inputs) {
      sum += x[k];
      squares += x[k] * x[k];
    }
    means[k] = sum / inputs.length;
    deviations[k] = Math.sqrt(Math.max(0, squares / inputs.length - means[k] * means[k])) + 1e-3;
  }
  return { means, deviations };
}
