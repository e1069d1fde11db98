import { mix, NUMBERS, type Algebra, type Operand } from '../../formula/algebra';

/**
 * Falloff of light towards the corners, as even polynomials in the distance from the centre. `m` is the square of that
 * distance, 1 at the furthest corner; `begins` interpolates from 2m − m² (at −1: early) over m (0) and m² (1) to m³ (2:
 * late and steep).
 */
export function falloffIn<T>(k: Algebra<T>, m: T, begins: Operand<T>): T {
  const two = k.mul(m, m);
  const early = mix(k, m, two, begins);
  return k.select(begins, 1, early, mix(k, two, k.mul(two, m), k.sub(begins, 1)));
}

export const falloff = (m: number, begins: number): number => falloffIn(NUMBERS, m, begins);

/** Its derivative with respect to m. */
export function falloffSlope(m: number, begins: number): number {
  return begins < 1 ? 1 + begins * (2 * m - 1) : 2 * m + (begins - 1) * (3 * m * m - 2 * m);
}

/** Centre and roundness of the falloff. */
export interface Centre {
  /** Shift of the centre as shares of the frame's width and height. */
  centreX: number;
  centreY: number;
  /** 0: circular. 1: with the frame's aspect ratio. */
  oval: number;
}

/**
 * Squared distance of a position (shares of the frame's width and height) from the centre, 1 at the furthest corner.
 * `aspect`: width over height of the frame.
 */
export function placeOf({ centreX, centreY, oval }: Centre, u: number, v: number, aspect: number): number {
  const wide = aspect ** (2 * (1 - oval));
  const [x, y] = [u - 0.5 - centreX, v - 0.5 - centreY];
  const [farX, farY] = [0.5 + Math.abs(centreX), 0.5 + Math.abs(centreY)];
  return Math.min(1, (x * x * wide + y * y) / (farX * farX * wide + farY * farY));
}
